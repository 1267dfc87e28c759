"""The web application: thin views over the library, the engine and the jobs."""

from .app import create_app

__all__ = ["create_app"]
