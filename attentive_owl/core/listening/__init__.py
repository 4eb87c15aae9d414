"""The ear: samples and a score -> what was played.

The stages, in the order of `listener.listen`: gate, features (pitch, level, change), boundaries, global guesses,
decoding, refining. Each is a module of its own that works on plain arrays.
"""

from attentive_owl.core.listening.gate import Gate, gate_recording
from attentive_owl.core.listening.listener import EAR, listen
from attentive_owl.core.listening.performance import HeardNote, OtherLine, Performance, Refusal, StrayNote
from attentive_owl.core.listening.tuning_check import StringHeard, hear_open_string

__all__ = [
    "EAR",
    "Gate",
    "HeardNote",
    "OtherLine",
    "Performance",
    "Refusal",
    "StrayNote",
    "StringHeard",
    "gate_recording",
    "hear_open_string",
    "listen",
]
