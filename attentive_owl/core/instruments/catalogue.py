"""The four instruments: one entry each. Tunings and hand patterns are common practice (first-position method books)."""

from __future__ import annotations

from dataclasses import dataclass

from attentive_owl.core.instruments.hands import HandFrame, bass_frames, cello_frames, upper_frames
from attentive_owl.core.instruments.marks import Mark
from attentive_owl.core.theory.pitch import Pitch, octaves_apart


@dataclass(frozen=True)
class OpenString:
    """A string and the note that it sounds."""

    name: str
    pitch: Pitch
    """Sounding pitch."""


@dataclass(frozen=True)
class Body:
    """How the instrument's body answers, for the simulated pupil and the demonstration (rough figures, by ear)."""

    resonances: tuple[tuple[float, float, float], ...]
    """(Hz, width in octaves, gain): air, wood, bridge hill."""
    lowest_hz: float
    """Under it the body hardly answers."""
    pluck_decay_s: float


@dataclass(frozen=True, eq=False)
class Instrument:
    """One entry of the catalogue; there is one object of each, and it is its own identity."""

    key: str
    name: str
    strings: tuple[OpenString, ...]
    """Low to high."""
    clef: str
    """MusicXML sign and line: 'G2', 'C3', 'F4'."""
    written_octaves: int
    """Octaves by which the part is written above its sound."""
    frames: tuple[HandFrame, ...]
    sizes: dict[str, float]
    """Fractional size -> vibrating string length in mm (from memory; to be measured on the pupil's own instrument)."""
    midi_program: int
    """General MIDI program, counted from 1."""
    highest: Pitch
    body: Body
    tapes: tuple[Mark, ...]
    """The places of the major-scale hand (common practice); the colours are ours and the teacher's to change."""
    also_called: tuple[str, ...] = ()
    """In scores from elsewhere, in small letters."""
    stands: bool = False
    """On the floor, and not on the shoulder."""
    fine_tuners: bool = True
    """Which a child may turn; a double bass has machines, for an adult."""
    fingers_touch: bool = False
    """Whether neighbouring fingers touch at a half step; larger hands keep their spacing there."""
    drops_an_octave: bool = False
    """Whether its lines drop an octave in the middle rather than climb, where nothing else is chosen."""

    @property
    def string_interval(self) -> int:
        """Semitones from one string to the next."""
        return self.strings[1].pitch.midi - self.strings[0].pitch.midi

    @property
    def beginners_top_midi(self) -> int:
        """Key number of the fourth finger on the highest string, in first position: as high as a beginner's line goes."""
        return self.strings[-1].pitch.midi + max(self.first_position.places(4))

    @property
    def first_position(self) -> HandFrame:
        return next(frame for frame in self.frames if frame.position == "1")

    def rings(self, midi: int) -> bool:
        """Whether a note is a unison or an octave of an open string, which then sounds with it."""
        return octaves_apart(midi, (string.pitch.midi for string in self.strings))

    @property
    def uses_third_finger(self) -> bool:
        return bool(self.first_position.places(3))

    def frame(self, position: str) -> HandFrame | None:
        return next((frame for frame in self.frames if frame.position == position), None)

    @property
    def lowest(self) -> Pitch:
        return self.strings[0].pitch

    def string(self, name: str) -> OpenString:
        """One string by its name. Raises ValueError where the instrument has none of that name."""
        for string in self.strings:
            if string.name == name:
                return string
        raise ValueError(f"a {self.name} has no {name} string")


def _strings(*names: str) -> tuple[OpenString, ...]:
    return tuple(OpenString(name[0], Pitch.parse(name)) for name in names)


_UPPER_TAPES = (
    Mark("first finger", "amber", 2),
    Mark("high second finger", "teal", 4),
    Mark("third finger", "plum", 5),
    Mark("fourth finger", "white", 7),
)

INSTRUMENTS: dict[str, Instrument] = {
    entry.key: entry
    for entry in (
        Instrument(
            key="violin",
            name="Violin",
            strings=_strings("G3", "D4", "A4", "E5"),
            clef="G2",
            written_octaves=0,
            frames=upper_frames(),
            sizes={"1/8": 220, "1/4": 240, "1/2": 265, "3/4": 300, "4/4": 328},
            midi_program=41,
            highest=Pitch.parse("F#6"),
            body=Body(((280, 0.30, 1.5), (480, 0.35, 1.6), (900, 0.5, 0.8), (2600, 0.8, 1.4)), 190.0, 0.28),
            tapes=_UPPER_TAPES,
            also_called=("violine", "geige", "violon", "violino", "fiddle"),
            fingers_touch=True,
        ),
        Instrument(
            key="viola",
            name="Viola",
            strings=_strings("C3", "G3", "D4", "A4"),
            clef="C3",
            written_octaves=0,
            frames=upper_frames(),
            sizes={"12 in": 300, "13 in": 320, "14 in": 337, "15 in": 355, "16 in": 375},
            midi_program=42,
            highest=Pitch.parse("B5"),
            body=Body(((220, 0.30, 1.5), (380, 0.35, 1.6), (750, 0.5, 0.8), (2100, 0.8, 1.3)), 140.0, 0.36),
            tapes=_UPPER_TAPES,
            also_called=("bratsche", "alto"),
            fingers_touch=True,
        ),
        Instrument(
            key="cello",
            name="Cello",
            strings=_strings("C2", "G2", "D3", "A3"),
            clef="F4",
            written_octaves=0,
            frames=cello_frames(),
            sizes={"1/8": 420, "1/4": 490, "1/2": 570, "3/4": 630, "4/4": 690},
            midi_program=43,
            highest=Pitch.parse("A4"),
            body=Body(((105, 0.30, 1.4), (190, 0.35, 1.6), (420, 0.5, 0.9), (1500, 0.8, 1.2)), 75.0, 0.7),
            tapes=(Mark("first finger", "amber", 2), Mark("third finger", "teal", 4), Mark("fourth finger", "plum", 5)),
            also_called=("violoncello", "violoncelle"),
            stands=True,
        ),
        Instrument(
            key="bass",
            name="Double bass",
            strings=_strings("E1", "A1", "D2", "G2"),
            clef="F4",
            written_octaves=1,
            frames=bass_frames(),
            sizes={"1/4": 900, "1/2": 970, "3/4": 1050, "4/4": 1100},
            midi_program=44,
            highest=Pitch.parse("E3"),
            body=Body(((60, 0.30, 1.0), (105, 0.35, 1.5), (230, 0.5, 1.0), (800, 0.8, 1.0)), 50.0, 1.0),
            tapes=(
                Mark("first finger", "amber", 2),
                Mark("fourth finger", "teal", 4),
                Mark("third position", "plum", 5),
            ),
            also_called=("contrabass", "string bass", "kontrabass", "contrebasse", "contrabbasso", "upright bass"),
            stands=True,
            fine_tuners=False,
            drops_an_octave=True,
        ),
    )
}


def instrument(key: str) -> Instrument:
    """Look an instrument up. Raises ValueError with one clear sentence for a name that is not in the catalogue."""
    try:
        return INSTRUMENTS[key]
    except KeyError:
        raise ValueError(f"{key!r} is none of {', '.join(INSTRUMENTS)}") from None
