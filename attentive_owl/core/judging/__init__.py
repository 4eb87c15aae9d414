"""Score + Performance + Expectations -> Report: deviations, causes, and words of advice."""

from attentive_owl.core.judging.cause import cause_key
from attentive_owl.core.judging.expectations import LEVELS, Expectations, Level
from attentive_owl.core.judging.report import REPORT_FORMAT, REPORT_VERSION, judge, refuse

__all__ = ["LEVELS", "REPORT_FORMAT", "REPORT_VERSION", "Expectations", "Level", "cause_key", "judge", "refuse"]
