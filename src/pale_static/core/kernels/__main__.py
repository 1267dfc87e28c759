"""``python -m pale_static.core.kernels`` compiles every kernel, so that no start has to."""

from . import (
    blending,
    convert,
    dots,
    film,
    grade,
    guide,
    lattice,
    mixing,
    morph,
    noise,
    power,
    sample,
    screens,
    shapes,
    shift,
    soften,
    space,
    tone,
)

KERNELS = (
    blending, convert, dots, film, grade, guide, lattice, mixing, morph, noise, power, sample, screens, shapes, shift, soften, space,
    tone,
)  # fmt: skip

blending.warm()
print(f"Kernels are compiled: {', '.join(m.__name__.split('.')[-1] for m in KERNELS)}.")
