"""The ear: samples and a score -> what was played.

The stages, in the order of `listener.listen`: `features` of the sound, `alignment` with the score, `notes` one by one, and
`acceptance`: is it this exercise at all? Each is a package of modules that work on plain arrays and small data classes.
"""

from attentive_owl.core.listening.features.recording_quality import Gate, gate_recording
from attentive_owl.core.listening.listener import EAR, Trace, listen
from attentive_owl.core.listening.one_note import OneNote, hear_one_note
from attentive_owl.core.listening.performance import HeardNote, OtherLine, Performance, Refusal, StrayNote
from attentive_owl.core.listening.tuning_check import StringHeard, hear_open_string, in_tune

__all__ = [
    "EAR",
    "Gate",
    "HeardNote",
    "OneNote",
    "OtherLine",
    "Performance",
    "Refusal",
    "StrayNote",
    "StringHeard",
    "Trace",
    "gate_recording",
    "hear_one_note",
    "hear_open_string",
    "in_tune",
    "listen",
]
