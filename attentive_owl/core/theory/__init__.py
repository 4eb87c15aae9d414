"""Pitch, intervals, keys, temperaments, meters: the vocabulary that everything else speaks."""

from attentive_owl.core.theory.keys import KeySignature, Mode, ScaleForm, scale_pitch, scale_pitches
from attentive_owl.core.theory.meter import Meter
from attentive_owl.core.theory.naming import NoteNames, say
from attentive_owl.core.theory.pitch import STEPS, Pitch, cents_between, frequency_hz, midi_from_hz
from attentive_owl.core.theory.temperament import Temperament, pitch_offset_cents

__all__ = [
    "STEPS",
    "KeySignature",
    "Meter",
    "Mode",
    "NoteNames",
    "Pitch",
    "ScaleForm",
    "Temperament",
    "cents_between",
    "frequency_hz",
    "midi_from_hz",
    "pitch_offset_cents",
    "say",
    "scale_pitch",
    "scale_pitches",
]
