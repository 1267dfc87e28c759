"""``python -m pale_static``."""

from .cli import main

main()
