"""Learning paths: in what order warm-ups are taught, as sequences of ready recipes (three schools, common practice)."""

from __future__ import annotations

from dataclasses import dataclass

from attentive_owl.core.exercises.building import title
from attentive_owl.core.exercises.recipe import Recipe, Register


@dataclass(frozen=True)
class LearningPath:
    """A row of exercises, each the next step after the one before."""

    name: str
    about: str
    steps: tuple[Recipe, ...]

    @property
    def titles(self) -> tuple[str, ...]:
        """One of its own for each step: where two exercises are called alike, the tempo tells them apart."""
        called = [title(step) for step in self.steps]
        return tuple(
            f"{name}, {step.tempo_bpm:g} a minute" if called.count(name) > 1 else name
            for name, step in zip(called, self.steps, strict=True)
        )


def _rhythms(string: str) -> tuple[Recipe, ...]:
    return tuple(
        Recipe(pattern=pattern, family="open-string", string=string, tempo_bpm=60.0)
        for pattern in ("quarters", "quarter-eighths", "sixteenths-eighths")
    )


def _key(tonic: str, tempo_bpm: float = 60.0) -> tuple[Recipe, ...]:
    """Lower half first, then the scale on quarters, then on the staple pattern."""
    return (
        Recipe(tonic, family="lower-half", tempo_bpm=tempo_bpm),
        Recipe(tonic, tempo_bpm=tempo_bpm),
        Recipe(tonic, "sixteenths-eighths", tempo_bpm=tempo_bpm),
    )


def _mastery(tonic: str) -> tuple[Recipe, ...]:
    return (Recipe(tonic, tempo_bpm=72.0), Recipe(tonic, family="arpeggio", tempo_bpm=72.0))


_UPPER_G = Recipe("G", tempo_bpm=66.0, registers=(Register("violin", "G4"),))
"""The octave from the third finger; the other instruments play theirs again."""

PATHS: tuple[LearningPath, ...] = (
    LearningPath(
        "Middle strings first",
        "D, then A, then G with the tonic on an open string; then C and the upper G; both octaves of G; then the flats.",
        (
            *_rhythms("D"),
            *_key("D"),
            *_key("A"),
            *_key("G"),
            Recipe("C", family="second-finger", string="D", tempo_bpm=60.0),
            *_key("C"),
            _UPPER_G,
            Recipe("G", octaves=2, tempo_bpm=66.0),
            *(Recipe(tonic, tempo_bpm=66.0) for tonic in ("F", "Bb", "Eb")),
        ),
    ),
    LearningPath(
        "Upper strings first",
        "Rhythms on A and D, then A major, D and G; after that as the middle strings go.",
        (
            *_rhythms("A"),
            *_rhythms("D"),
            *_key("A"),
            *_key("D"),
            *_key("G"),
            *_key("C"),
            _UPPER_G,
            Recipe("G", octaves=2, tempo_bpm=66.0),
            *(Recipe(tonic, tempo_bpm=66.0) for tonic in ("F", "Bb", "Eb")),
        ),
    ),
    LearningPath(
        "Mixed class",
        "The seven keys of a school orchestra on every instrument, each with its mastery test.",
        (
            *_rhythms("D"),
            *(step for tonic in ("D", "G", "C") for step in (*_key(tonic), *_mastery(tonic))),
            *(step for tonic in ("A", "F", "Bb", "Eb") for step in (Recipe(tonic, tempo_bpm=60.0), *_mastery(tonic))),
        ),
    ),
)
