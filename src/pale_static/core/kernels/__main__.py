"""``python -m pale_static.core.kernels`` compiles every kernel, so that no start has to."""

from . import convert, film, mixing, noise, tone

print(
    f"Kernels are compiled: {', '.join(m.__name__.split('.')[-1] for m in (convert, film, mixing, noise, tone))}."
)
