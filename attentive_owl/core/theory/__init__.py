"""Pitch, intervals, keys, temperaments, meters: the vocabulary that everything else speaks."""

from attentive_owl.core.theory.keys import KeySignature, Mode, ScaleForm, scale_pitch, scale_pitches
from attentive_owl.core.theory.meter import Meter
from attentive_owl.core.theory.naming import NoteNames, say
from attentive_owl.core.theory.pitch import STEPS, Pitch, cents_between, frequency_hz, midi_from_hz
from attentive_owl.core.theory.temperament import Temperament, pitch_offset_cents
from attentive_owl.core.theory.values import NoteValues, in_vocabulary, measure_name, value_name

__all__ = [
    "STEPS",
    "KeySignature",
    "Meter",
    "Mode",
    "NoteNames",
    "NoteValues",
    "Pitch",
    "ScaleForm",
    "Temperament",
    "cents_between",
    "frequency_hz",
    "in_vocabulary",
    "measure_name",
    "midi_from_hz",
    "pitch_offset_cents",
    "say",
    "scale_pitch",
    "scale_pitches",
    "value_name",
]
