"""Score + Performance + Expectations -> Report: deviations, causes, and words of advice."""

from attentive_owl.core.judging.cause import cause_key
from attentive_owl.core.judging.expectations import LEVELS, Expectations, GoodGoRule, Level
from attentive_owl.core.judging.findings import FINDINGS
from attentive_owl.core.judging.first_note import FirstNoteAnswer, answer_first_note, walk_to_first_note
from attentive_owl.core.judging.judge import ENGINE, JUDGE, judge, not_read
from attentive_owl.core.judging.overruling import Overruling, overruled
from attentive_owl.core.judging.report import REPORT_FORMAT, REPORT_VERSION, Report, in_words
from attentive_owl.core.judging.spots import Spot, spots
from attentive_owl.core.judging.triage import Need, NeedKind, Usual, WaitingTake, need_of, usual
from attentive_owl.core.judging.trouble import trouble_by_bar

__all__ = [
    "ENGINE",
    "FINDINGS",
    "JUDGE",
    "LEVELS",
    "REPORT_FORMAT",
    "REPORT_VERSION",
    "Expectations",
    "FirstNoteAnswer",
    "GoodGoRule",
    "Level",
    "Need",
    "NeedKind",
    "Overruling",
    "Report",
    "Spot",
    "Usual",
    "WaitingTake",
    "answer_first_note",
    "cause_key",
    "in_words",
    "judge",
    "need_of",
    "not_read",
    "overruled",
    "spots",
    "trouble_by_bar",
    "usual",
    "walk_to_first_note",
]
