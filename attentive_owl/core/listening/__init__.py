"""The ear: samples and a score -> what was played.

The stages, in the order of `listener.listen`: gate, features (pitch, level, change), boundaries, global guesses,
decoding, refining. Each is a module of its own that works on plain arrays.
"""

from attentive_owl.core.listening.gate import Gate, gate_recording
from attentive_owl.core.listening.listener import ENGINE, listen
from attentive_owl.core.listening.performance import HeardNote, Performance, Refusal, StrayNote

__all__ = ["ENGINE", "Gate", "HeardNote", "Performance", "Refusal", "StrayNote", "gate_recording", "listen"]
