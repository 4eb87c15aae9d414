"""From a recipe to the Score of one instrument: its octave, its fingering, its bows."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from fractions import Fraction
from functools import lru_cache

from attentive_owl.core.exercises.families import AS_TYPED, Family, Step, family
from attentive_owl.core.exercises.octave_drop import LAST_RESORT, Drops, sounding
from attentive_owl.core.exercises.patterns import RecipeError, meter, pattern
from attentive_owl.core.exercises.recipe import Bowing, Direction, Ease, Recipe
from attentive_owl.core.exercises.score import Score, lay_out
from attentive_owl.core.exercises.strokes import Stroke, strokes_of
from attentive_owl.core.instruments import (
    FingerPlacement,
    FourthFinger,
    Instrument,
    UnplayableError,
    Wanted,
    find_fingering,
    instrument,
)
from attentive_owl.core.theory import KeySignature, Pitch

_COST_AWAY = 12.0
"""A drill stays in the octave in which the instrument plays the scale."""

_COST_AWAY_AS_TYPED = 3.0
"""A teacher's own line stays where it was put in, where that is as easy as elsewhere, and never for a shift."""

_TIMES = {2: "two", 3: "three", 4: "four"}

LONGEST_S = 480.0
"""What a beginner plays at a stretch, and a page, a demonstration and a recording can hold."""


_FEW_NOTES = 4
"""A line of so few different notes is called by them."""


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
    names = tuple(dict.fromkeys(Pitch.parse(note.name).spoken for note in recipe.line if note.name))
    if recipe.family == "own" and 0 < len(names) <= _FEW_NOTES:
        parts.append(" ".join(names))
    if recipe.family == "ladder" and recipe.rungs:
        parts.append(f"rungs {', '.join(map(str, recipe.rungs))}")
    elif recipe.family == "ladder" and recipe.rung != 2:
        parts.append(f"rung {recipe.rung}")
    elif "pattern" in own.uses:
        parts.append(pattern(recipe.pattern).name.lower())
    if "bowing" in own.uses and recipe.bowing is not Bowing.DETACHED:
        parts.append(recipe.bowing.value)
    if recipe.pickup and "pickup" in own.uses:
        parts.append("from a pickup")
    if "times" in own.uses and recipe.times > 1:
        parts.append(f"{_TIMES[recipe.times]} times each")
    parts += [f"{one.instrument} from {one.start}" for one in recipe.registers if one.start and not own.on_strings]
    if recipe.bow_part.value:
        parts.append(recipe.bow_part.value)
    if recipe.bars is not None:
        first, last = recipe.bars
        parts.append(f"bar {first}" if first == last else f"bars {first} to {last}")
    return ", ".join(parts)


@lru_cache(maxsize=512)
def build(recipe: Recipe, instrument_key: str, ease: Ease = Ease.USUAL) -> Score:
    """The recipe on one instrument: the octave that is cheapest to finger, the teacher's register and pins kept. Remembered: a line is
    asked for by its page, its sheet, its takes, and all that is suggested after it.

    Raises UnplayableError where no octave fits the instrument's beginner positions or a pin can not sound its note, and
    RecipeError for a recipe that makes no line, or has nothing in the bars that are asked for.
    """
    if recipe.bars is None:
        return _whole(recipe, instrument_key, ease)
    first, _ = recipe.bars
    whole = replace(recipe, bars=None, pins=())
    if recipe.pins and first > 1:
        skipped = sum(note.measure < first for note in _whole(whole, instrument_key, ease).notes)
        pins = tuple(replace(pin, index=pin.index + skipped) for pin in recipe.pins)
    else:
        pins = recipe.pins
    score = _whole(replace(whole, pins=pins), instrument_key, ease)
    try:
        return replace(score.only_measures(*recipe.bars), title=title(recipe))
    except ValueError as error:
        raise RecipeError(str(error)) from error


def _whole(recipe: Recipe, instrument_key: str, ease: Ease) -> Score:
    player = instrument(instrument_key)
    own = family(recipe.family)
    own_meter = meter(recipe.meter if "meter" in own.uses else "4/4")
    pickup = Fraction(0)
    if recipe.pickup and "pickup" in own.uses:
        first = abs(pattern(recipe.pattern).values[0])
        pickup = first if first < own_meter.measure_beats else Fraction(0)
    strokes = strokes_of(recipe, own, _steps(recipe, own, player, ease), own_meter, pickup)
    beats = sum((stroke.beats for stroke in strokes), Fraction(0))
    seconds = float(beats) * 60.0 / recipe.tempo_bpm
    if seconds > LONGEST_S:
        raise RecipeError(f"this lasts {seconds / 60:.0f} minutes; an exercise has {LONGEST_S / 60:.0f} at most")
    rest = -(beats - pickup) % own_meter.measure_beats
    if rest:
        strokes.append(Stroke(None, rest, None, False))
    notes = [stroke for stroke in strokes if stroke.pitch is not None]
    pins = {place: Wanted(stroke.string) for place, stroke in enumerate(notes) if stroke.string}
    pins |= {
        pin.index: Wanted(pin.string, pin.finger)
        for pin in recipe.pins
        if pin.instrument == player.key and pin.index < len(notes)
    }
    placements = _fingered(player, sounding(notes), recipe, own, pins)
    score = lay_out(
        [(stroke.pitch, stroke.beats, stroke.cue) for stroke in strokes],
        title=title(recipe),
        instrument_key=instrument_key,
        key=_signature(recipe, own, sounding(notes)),
        meter=own_meter,
        tempo_bpm=recipe.tempo_bpm,
        placements=placements,
        pickup_beats=pickup,
        joined=[stroke.joined for stroke in strokes],
    )
    plucked = "bowing" in own.uses and recipe.bowing is Bowing.PIZZICATO
    return replace(
        score,
        notes=tuple(
            replace(note, staccato=stroke.stopped, pizzicato=plucked, bow=None if plucked else note.bow)
            for note, stroke in zip(score.notes, notes, strict=True)
        ),
        slows_from=(score.notes[-1].measure - 1) * own_meter.measure_beats if recipe.slows else None,
        dynamic=recipe.dynamic.value,
        how=tuple(word.value for word in (recipe.bow_part, recipe.fingers) if word.value),
    )


def _fingered(
    player: Instrument, pitches: Sequence[Pitch], recipe: Recipe, own: Family, pins: Mapping[int, Wanted]
) -> Sequence[FingerPlacement]:
    """The cheapest fingering; a drill that comes back to a note takes it the same way each time, where that can be had."""
    placements, _ = find_fingering(player, pitches, recipe.fourth_finger, pins)
    if not own.one_way or recipe.fourth_finger is FourthFinger.DESCENDING:
        return placements
    usual = {
        pitch.midi: Counter(
            (place.string, place.finger) for place, other in zip(placements, pitches, strict=True) if other == pitch
        ).most_common(1)[0][0]
        for pitch in pitches
    }
    same = {at: Wanted(*usual[pitch.midi]) for at, pitch in enumerate(pitches)}
    try:
        return find_fingering(player, pitches, recipe.fourth_finger, {**same, **pins})[0]
    except UnplayableError:
        return placements


def _signature(recipe: Recipe, own: Family, pitches: Sequence[Pitch]) -> KeySignature:
    """The key's, but a drill on the strings shows none where it has no note of the key that is raised or lowered."""
    if own.on_strings and not any(pitch.alter and recipe.key.alter(pitch.step) for pitch in pitches):
        return KeySignature(0)
    return recipe.key


def possible_starts(recipe: Recipe, instrument_key: str) -> tuple[str, ...]:
    """First notes (as they sound, low to high) from which the instrument has the line, with a drop only where it usually drops
    and not for most of it; none for a drill on its strings."""
    player, own = instrument(instrument_key), family(recipe.family)
    if own.on_strings:
        return ()
    wanted = Drops(player, recipe.fourth_finger, recipe.tonic, own.group, "", Ease.USUAL)
    lines, _ = _lines(recipe, own, player)
    return tuple(
        sounding(line)[0].name
        for line in lines.values()
        if any(cost < LAST_RESORT and _mostly(laid, line) for cost, laid in wanted.of(line))
    )


def _mostly(laid: Sequence[Step], line: Sequence[Step]) -> bool:
    """Whether a line that drops is more in its own octave than out of it."""
    return 2 * sum(a.pitch != b.pitch for a, b in zip(laid, line, strict=True)) < len(line)


def _lines(recipe: Recipe, own: Family, player: Instrument) -> tuple[dict[int, Sequence[Step]], str]:
    """Octave of the tonic -> line, where there is one; and why there is none in the last octave that has none."""
    lines: dict[int, Sequence[Step]] = {}
    why = f"{title(recipe)} does not fit on the {player.name.lower()}"
    for octave in range(player.lowest.octave - 2, player.highest.octave + 2):
        try:
            lines[octave] = own.build(recipe, player, octave)
        except UnplayableError as error:
            why = str(error)
    return lines, why


def _steps(recipe: Recipe, own: Family, player: Instrument, ease: Ease = Ease.USUAL) -> Sequence[Step]:
    if own.on_strings:
        return own.build(recipe, player, 4)
    register = recipe.register(player.key)
    lines, why = _lines(recipe, own, player)
    if register.start:
        start = Pitch.parse(register.start).midi
        lines = {octave: line for octave, line in lines.items() if sounding(line)[0].midi == start}
        if not lines:
            raise UnplayableError(f"{title(recipe)} does not start on {register.start} on the {player.name.lower()}")
    home = _home_octave(recipe, player) if own.group == "intonation" else None
    wanted = Drops(player, recipe.fourth_finger, recipe.tonic, own.group, register.drop_after, ease)
    cost_away = _COST_AWAY
    if "line" in own.uses:
        home, cost_away = AS_TYPED, _COST_AWAY_AS_TYPED
    options = [
        (cost + (0.0 if home is None else cost_away * abs(octave - home)), laid)
        for octave, line in lines.items()
        for cost, laid in wanted.of(line)
    ]
    if not options:
        raise UnplayableError(why)
    return min(options, key=lambda option: option[0])[1]


def _home_octave(recipe: Recipe, player: Instrument) -> int | None:
    """Octave of the tonic of the one-octave scale, None where the scale does not fit."""
    scale = replace(recipe, family="scale", octaves=1, pattern="quarters", cue=(), direction=Direction.UP, registers=())
    try:
        first = _steps(scale, family("scale"), player)[0].pitch
    except UnplayableError:
        return None
    return None if first is None else first.octave
