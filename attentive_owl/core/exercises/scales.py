"""Scales: a recipe holds the teacher's choices; building it places them on one instrument."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from attentive_owl.core.exercises.patterns import pattern
from attentive_owl.core.exercises.score import Score, lay_out
from attentive_owl.core.instruments import FourthFinger, Instrument, UnplayableError, find_fingering, instrument
from attentive_owl.core.theory import KeySignature, Meter, Mode, Pitch, scale_pitches

LOWEST_TEMPO_BPM, HIGHEST_TEMPO_BPM = 40, 132


@dataclass(frozen=True)
class ScaleRecipe:
    """One octave up and down, the pattern on every degree, the top note played again on the way down."""

    tonic: str
    pattern: str = "quarters"
    tempo_bpm: float = 72.0
    fourth_finger: FourthFinger = FourthFinger.OPEN
    mode: Mode = Mode.MAJOR

    def __post_init__(self) -> None:
        if not LOWEST_TEMPO_BPM <= self.tempo_bpm <= HIGHEST_TEMPO_BPM:
            raise ValueError(f"the tempo goes from {LOWEST_TEMPO_BPM} to {HIGHEST_TEMPO_BPM} beats a minute")
        if self.mode is not Mode.MAJOR:
            raise ValueError("only major scales so far")
        pattern(self.pattern)
        KeySignature.of(self.tonic, self.mode)

    @property
    def title(self) -> str:
        tonic = Pitch.parse(f"{self.tonic}4").spoken
        return f"{tonic} {self.mode.value}, one octave, {pattern(self.pattern).name.lower()}"


def build_scale(recipe: ScaleRecipe, instrument_key: str) -> Score:
    """The recipe on one instrument: its octave (the cheapest to finger) and fingering.

    Raises UnplayableError where no octave of the scale fits the instrument's beginner positions.
    """
    player = instrument(instrument_key)
    key = KeySignature.of(recipe.tonic, recipe.mode)
    rhythm = pattern(recipe.pattern)
    degrees = _up_and_down(_best_octave(player, key, recipe.fourth_finger))
    placements, _ = find_fingering(player, degrees, recipe.fourth_finger)
    line: list[tuple[Pitch | None, Fraction, str | None]] = []
    for degree in degrees:
        line += [(degree, value, cue) for value, cue in zip(rhythm.values, rhythm.cue, strict=True)]
    return lay_out(
        line,
        title=recipe.title,
        instrument_key=instrument_key,
        key=key,
        meter=Meter(4, 4),
        tempo_bpm=recipe.tempo_bpm,
        placements=[place for place in placements for _ in rhythm.values],
    )


def _up_and_down(scale: tuple[Pitch, ...]) -> tuple[Pitch, ...]:
    return (*scale, *reversed(scale))


def _best_octave(player: Instrument, key: KeySignature, policy: FourthFinger) -> tuple[Pitch, ...]:
    options: list[tuple[float, int, tuple[Pitch, ...]]] = []
    for octave in range(player.lowest.octave, player.highest.octave + 1):
        scale = scale_pitches(key, octave)
        if scale[0].midi < player.lowest.midi or scale[-1].midi > player.highest.midi:
            continue
        try:
            _, cost = find_fingering(player, _up_and_down(scale), policy)
        except UnplayableError:
            continue
        options.append((cost, octave, scale))
    if not options:
        raise UnplayableError(f"{key.tonic} {key.mode.value} does not fit one octave on the {player.name.lower()}")
    return min(options)[2]
