"""From a recipe to the Score of one instrument: its octave, its fingering, its bows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise

from attentive_owl.core.exercises.families import Family, Step, family
from attentive_owl.core.exercises.patterns import RecipeError, meter, pattern
from attentive_owl.core.exercises.recipe import Bowing, Direction, Recipe
from attentive_owl.core.exercises.score import Score, lay_out
from attentive_owl.core.instruments import (
    Instrument,
    UnplayableError,
    Wanted,
    find_fingering,
    instrument,
)
from attentive_owl.core.theory import Pitch

_FOLDING = frozenset({"scales", "rhythm", "phrases"})
"""Groups whose lines may drop an octave in the middle, where an instrument runs out of easy positions."""
_COST_FOLD = 20.0
_COST_AWAY = 12.0
"""A drill stays in the octave in which the instrument plays the scale."""

LONGEST_S = 480.0
"""What a beginner plays at a stretch, and a page, a demonstration and a recording can hold."""


@dataclass(frozen=True)
class _Event:
    pitch: Pitch | None
    beats: Fraction
    cue: str | None
    joined: bool
    string: str | None = None


def title(recipe: Recipe) -> str:
    """What the exercise is called: 'D major, one octave, quarters'."""
    own = family(recipe.family)
    parts = []
    if "tonic" in own.uses:
        parts.append(f"{recipe.tonic_spoken} {recipe.form.value}")
    if recipe.family == "scale":
        parts.append("two octaves" if recipe.octaves == 2 else "one octave")
    else:
        parts.insert(0, own.name)
        if recipe.octaves == 2 and "octaves" in own.uses:
            parts.append("two octaves")
    if recipe.family == "ladder" and recipe.rung != 2:
        parts.append(f"rung {recipe.rung}")
    elif "pattern" in own.uses:
        parts.append(pattern(recipe.pattern).name.lower())
    if "bowing" in own.uses and recipe.bowing is not Bowing.DETACHED:
        parts.append(recipe.bowing.value)
    if recipe.pickup and "pickup" in own.uses:
        parts.append("from a pickup")
    if recipe.bars is not None:
        first, last = recipe.bars
        parts.append(f"bar {first}" if first == last else f"bars {first} to {last}")
    return ", ".join(parts)


def build(recipe: Recipe, instrument_key: str) -> Score:
    """The recipe on one instrument: the octave that is cheapest to finger, the teacher's pins kept.

    Raises UnplayableError where no octave fits the instrument's beginner positions or a pin can not sound its note, and
    RecipeError for a recipe that makes no line, or has nothing in the bars that are asked for.
    """
    if recipe.bars is None:
        return _whole(recipe, instrument_key)
    first, _ = recipe.bars
    whole = replace(recipe, bars=None, pins=())
    if recipe.pins and first > 1:
        skipped = sum(note.measure < first for note in _whole(whole, instrument_key).notes)
        pins = tuple(replace(pin, index=pin.index + skipped) for pin in recipe.pins)
    else:
        pins = recipe.pins
    score = _whole(replace(whole, pins=pins), instrument_key)
    try:
        return replace(score.only_measures(*recipe.bars), title=title(recipe))
    except ValueError as error:
        raise RecipeError(str(error)) from error


def _whole(recipe: Recipe, instrument_key: str) -> Score:
    player = instrument(instrument_key)
    own = family(recipe.family)
    events = _events(recipe, own, _steps(recipe, own, player))
    seconds = float(sum((event.beats for event in events), Fraction(0))) * 60.0 / recipe.tempo_bpm
    if seconds > LONGEST_S:
        raise RecipeError(f"this lasts {seconds / 60:.0f} minutes; an exercise has {LONGEST_S / 60:.0f} at most")
    notes = [event for event in events if event.pitch is not None]
    pins = {place: Wanted(event.string) for place, event in enumerate(notes) if event.string}
    pins |= {
        pin.index: Wanted(pin.string, pin.finger)
        for pin in recipe.pins
        if pin.instrument == player.key and pin.index < len(notes)
    }
    sounding = [event.pitch for event in notes if event.pitch is not None]
    placements, _ = find_fingering(player, sounding, recipe.fourth_finger, pins)
    own_meter = meter(recipe.meter if "meter" in own.uses else "4/4")
    pickup = Fraction(0)
    if recipe.pickup and "pickup" in own.uses:
        first = abs(pattern(recipe.pattern).values[0])
        pickup = first if first < own_meter.measure_beats else Fraction(0)
    rest = -(sum((event.beats for event in events), Fraction(0)) - pickup) % own_meter.measure_beats
    if rest:
        events = [*events, _Event(None, rest, None, False)]
    score = lay_out(
        [(event.pitch, event.beats, event.cue) for event in events],
        title=title(recipe),
        instrument_key=instrument_key,
        key=recipe.key,
        meter=own_meter,
        tempo_bpm=recipe.tempo_bpm,
        placements=placements,
        pickup_beats=pickup,
        joined=[event.joined for event in events],
    )
    if "bowing" in own.uses:
        score = replace(
            score,
            notes=tuple(
                replace(
                    note,
                    staccato=recipe.bowing is Bowing.STACCATO,
                    pizzicato=recipe.bowing is Bowing.PIZZICATO,
                    bow=None if recipe.bowing is Bowing.PIZZICATO else note.bow,
                )
                for note in score.notes
            ),
        )
    return score


def _steps(recipe: Recipe, own: Family, player: Instrument) -> Sequence[Step]:
    if own.on_strings:
        return own.build(recipe, player, 4)
    options: list[tuple[float, int, Sequence[Step]]] = []
    trouble: UnplayableError | None = None
    home = _home_octave(recipe, player) if own.group == "intonation" else None
    for octave in range(player.lowest.octave - 2, player.highest.octave + 2):
        try:
            steps = own.build(recipe, player, octave)
        except UnplayableError as error:
            trouble = error
            continue
        folded = _folded(steps, player) if own.group in _FOLDING else steps
        pitches = [step.pitch for step in folded if step.pitch is not None]
        if min(p.midi for p in pitches) < player.lowest.midi or max(p.midi for p in pitches) > player.highest.midi:
            continue
        try:
            _, cost = find_fingering(player, _without_repeats(pitches), recipe.fourth_finger)
        except UnplayableError as error:
            trouble = error
            continue
        cost += 0.0 if folded is steps else _COST_FOLD
        cost += 0.0 if home is None else _COST_AWAY * abs(octave - home)
        options.append((cost, octave, folded))
    if not options:
        reason = trouble or f"{title(recipe)} does not fit on the {player.name.lower()}"
        raise UnplayableError(str(reason))
    return min(options, key=lambda option: option[:2])[2]


def _home_octave(recipe: Recipe, player: Instrument) -> int | None:
    """Octave of the tonic of the one-octave scale, None where the scale does not fit."""
    scale = replace(recipe, family="scale", octaves=1, pattern="quarters", cue=(), direction=Direction.UP)
    try:
        first = _steps(scale, family("scale"), player)[0].pitch
    except UnplayableError:
        return None
    return None if first is None else first.octave


def _folded(steps: Sequence[Step], player: Instrument) -> Sequence[Step]:
    """The line with all that lies over the instrument's beginner range an octave lower; the same object where nothing
    does. A line that begins out of range is not folded."""
    first = next((step.pitch for step in steps if step.pitch is not None), None)
    top = player.highest.midi
    if first is None or not player.lowest.midi <= first.midi <= top:
        return steps
    if all(step.pitch is None or step.pitch.midi <= top for step in steps):
        return steps
    return [
        replace(step, pitch=step.pitch.octaves_up(-1)) if step.pitch is not None and step.pitch.midi > top else step
        for step in steps
    ]


def _without_repeats(pitches: Sequence[Pitch]) -> list[Pitch]:
    """A repeated pitch keeps its place, so it need not be searched twice."""
    return [pitches[0], *(after for before, after in pairwise(pitches) if after != before)]


def _events(recipe: Recipe, own: Family, steps: Sequence[Step]) -> list[_Event]:
    events: list[_Event] = []
    for step in steps:
        if step.pattern is None:
            events.append(_Event(step.pitch, step.beats or Fraction(1), None, step.slurred, step.string))
            continue
        words = iter(recipe.cue or step.pattern.cue)
        for value in step.pattern.values:
            sounding = value > 0
            events.append(
                _Event(
                    step.pitch if sounding else None, abs(value), next(words) if sounding else None, False, step.string
                )
            )
    if "bowing" in own.uses and recipe.bowing.notes_a_bow > 1:
        events = _slurred(events, recipe.bowing.notes_a_bow)
    return events


def _slurred(events: Sequence[_Event], notes_a_bow: int) -> list[_Event]:
    """So many notes in a bow; a rest or a repeated pitch begins a new one."""
    out: list[_Event] = []
    in_bow = 0
    for place, event in enumerate(events):
        before = events[place - 1].pitch if place else None
        joined = event.pitch is not None and before is not None and before != event.pitch and in_bow < notes_a_bow
        in_bow = 0 if event.pitch is None else in_bow + 1 if joined else 1
        out.append(replace(event, joined=joined))
    return out
