"""The bow: where on it each note starts and ends, and where it runs out."""

from attentive_owl.core.bowing.plan import BowPlan, BowStroke, plan_bow

__all__ = ["BowPlan", "BowStroke", "plan_bow"]
