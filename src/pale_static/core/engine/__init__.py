"""The engine: from a document and a moment to pixels, doing nothing twice."""

from ..cache import Cache
from .evaluate import Cost, Engine, Evaluation
from .nodes import Node, Plan
from .plan import make_plan

__all__ = ["Cache", "Cost", "Engine", "Evaluation", "Node", "Plan", "make_plan"]
