"""Score + Performance + Expectations -> Report: deviations, causes, and words of advice."""

from attentive_owl.core.judging.cause import cause_key
from attentive_owl.core.judging.expectations import LEVELS, Expectations, GoodGoRule, Level
from attentive_owl.core.judging.findings import FINDINGS
from attentive_owl.core.judging.judge import ENGINE, JUDGE, judge
from attentive_owl.core.judging.overruling import Overruling, overruled
from attentive_owl.core.judging.report import REPORT_FORMAT, REPORT_VERSION, Report, in_words

__all__ = [
    "ENGINE",
    "FINDINGS",
    "JUDGE",
    "LEVELS",
    "REPORT_FORMAT",
    "REPORT_VERSION",
    "Expectations",
    "GoodGoRule",
    "Level",
    "Overruling",
    "Report",
    "cause_key",
    "in_words",
    "judge",
    "overruled",
]
