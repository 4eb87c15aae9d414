"""The cases that break toys, each a family of takes made by seed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.exercises import Direction, Recipe, Score, build, lay_out
from attentive_owl.core.playing import Habits, Performed, Room, perform_score, place_in_room, render
from attentive_owl.core.playing.synthesis import Truth
from attentive_owl.core.theory import KeySignature, Meter, Pitch, frequency_hz
from bench import effects
from bench.sampled import render_sampled

RATE = effects.RATE
INSTRUMENTS = ("violin", "viola", "cello", "bass")
Renderer = Callable[[Performed, str], tuple[NDArray[np.float32], tuple[Truth, ...]]]
SOURCES: tuple[str, ...] = ("simulated", "sampled")
RENDERERS: dict[str, Renderer] = {"sampled": render_sampled}
"""Sources beside the simulated pupil; they know no slur."""
PLUCKING = ("simulated", "sampled")


@dataclass
class Case:
    """What is played, how, and where."""

    score: Score
    habits: Habits
    source: str
    room: Room
    after: Callable[[NDArray[np.float32], np.random.Generator], tuple[NDArray[np.float32], float]] | None = None
    """A last effect; gives the sound and by how many seconds it moved the playing."""


@dataclass
class Take:
    sound: NDArray[np.float32]
    score: Score
    truths: tuple[Truth, ...]
    tempo_bpm: float
    habits: Habits
    refuse: bool
    notes: dict[int, str] = field(default_factory=dict)
    """Written index -> played, wrong_pitch or missed, for the last go."""


def scale(
    rng: np.random.Generator,
    pattern: str = "quarters",
    tempo: tuple[int, int] = (60, 96),
    instrument: str | None = None,
) -> Score:
    key = instrument or str(rng.choice(INSTRUMENTS))
    return build(Recipe(str(rng.choice(["D", "G", "A", "C"])), pattern, float(rng.integers(*tempo))), key)


def slurred(score: Score, by: int) -> Score:
    return replace(score, notes=tuple(replace(n, slur=n.index // by) for n in score.notes))


def with_rests(score: Score) -> Score:
    """Every fourth note is a rest."""
    line = [(None if n.index % 4 == 3 else n.pitch, n.duration_beats, None) for n in score.notes]
    places = [n.placement for n in score.notes if n.index % 4 != 3 and n.placement]
    return lay_out(
        line,
        title="rests",
        instrument_key=score.instrument_key,
        key=score.key,
        meter=score.meter,
        tempo_bpm=score.tempo_bpm,
        placements=places,
    )


def long_tones(score: Score) -> Score:
    line = [(n.pitch, Fraction(4), None) for n in score.notes[::2]]
    places = [n.placement for n in score.notes[::2] if n.placement]
    return lay_out(
        line,
        title="long",
        instrument_key=score.instrument_key,
        key=score.key,
        meter=score.meter,
        tempo_bpm=score.tempo_bpm,
        placements=places,
    )


def extremes(rng: np.random.Generator) -> Score:
    if rng.random() < 0.5:
        names, key = ["E1", "F#1", "G#1", "A1", "B1", "A1", "G#1", "F#1"], "bass"
    else:
        names, key = ["E5", "F#5", "G#5", "A5", "B5", "A5", "G#5", "F#5"], "violin"
    line = [(Pitch.parse(n), Fraction(1), None) for n in names]
    return lay_out(
        line,
        title="edge",
        instrument_key=key,
        key=KeySignature(4),
        meter=Meter(),
        tempo_bpm=float(rng.integers(56, 84)),
    )


def tune(rng: np.random.Generator, score: Score, *, stepwise: bool = False) -> Score:
    """Another melody in the same key and range: a random walk over the scale, in other values; stepwise mostly by steps, in
    values of its own or all in quarters."""
    even = stepwise and rng.random() < 0.5
    pitches = sorted({n.pitch for n in score.notes}, key=lambda p: p.midi)
    at, line = int(rng.integers(len(pitches))), []
    for _ in range(16):
        moves = [-2, -1, -1, -1, 1, 1, 1, 2] if stepwise else [-4, -3, -2, 2, 3, 4]
        at = int(np.clip(at + rng.choice(moves), 0, len(pitches) - 1))
        line.append((pitches[at], Fraction(1) if even else Fraction(int(rng.choice([1, 2, 3, 4])), 2), None))
    return lay_out(
        line,
        title="tune",
        instrument_key=score.instrument_key,
        key=score.key,
        meter=score.meter,
        tempo_bpm=score.tempo_bpm,
    )


def play_only(source: str, renderer: Renderer | None = None) -> None:
    """From now on all takes come from this source; slurs, and plucking where it knows none, from the simulated pupil."""
    global SOURCES
    SOURCES = (source,)
    if renderer is not None:
        RENDERERS[source] = renderer


def sounding(
    source: str, performed: Performed, instrument_key: str, seed: int
) -> tuple[NDArray[np.float32], tuple[Truth, ...]]:
    """A performance as a source plays it, and where each note really is."""
    unable = any(note.slurred or (note.pizzicato and source not in PLUCKING) for note in performed.notes)
    if source == "simulated" or unable:
        return render(performed, instrument_key, RATE, seed)
    return RENDERERS[source](performed, instrument_key)


def _plain(rng: np.random.Generator, score: Score, room: Room | None = None, **habits: object) -> Case:
    own = {"scatter_cents": 6.0, "timing_ms": 12.0, **habits}
    return Case(score, Habits(**own), str(rng.choice(SOURCES)), room or Room(42, 0.15))  # type: ignore[arg-type]


def _moved(
    make: Callable[[np.random.Generator], Case], effect: Callable[..., tuple[NDArray[np.float32], float]]
) -> Callable[[np.random.Generator], Case]:
    def made(rng: np.random.Generator) -> Case:
        case = make(rng)
        case.after = effect
        return case

    return made


def _stopping(rng: np.random.Generator) -> Case:
    at = sorted(rng.choice(np.arange(2, 15), 2, replace=False).tolist())
    return _plain(rng, scale(rng), stops={int(i): float(rng.uniform(0.5, 2.0)) for i in at})


def _restart(rng: np.random.Generator) -> Case:
    return _plain(rng, scale(rng), restarts=({6: 4} if rng.random() < 0.5 else {int(rng.integers(3, 8)): 0}))


def _mistakes(rng: np.random.Generator) -> Case:
    picks = rng.choice(np.arange(1, 15), 3, replace=False).tolist()
    return _plain(
        rng,
        scale(rng, str(rng.choice(["quarters", "eighths"]))),
        wrong={picks[0]: int(rng.choice([-2, -1, 1, 2])), picks[1]: int(rng.choice([-1, 1]))},
        missed=(picks[2],),
    )


POOR_EXERCISES = ("scale", "thirds", "arpeggio", "chromatic", "lower-half", "second-finger", "ringing", "half-steps")


_NEAR, _FAR = (-2, -1, 1, 2), (-7, -5, -4, -3, 3, 4, 5, 7)


def _poor(rng: np.random.Generator) -> Case:
    """Two to four notes in ten wrong, a few of them far away or on another string, some left out or put in, stops, a restart,
    now and then the key forgotten or the end not reached."""
    recipe = Recipe(
        str(rng.choice(["D", "G", "A", "C"])),
        str(rng.choice(["quarters", "quarters", "eighths"])),
        float(rng.integers(56, 92)),
        family=str(rng.choice(POOR_EXERCISES)),
    )
    score = build(recipe, str(rng.choice(INSTRUMENTS)))
    count = len(score.notes)
    order = rng.permutation(count).tolist()
    wrong, missed = int(count * rng.uniform(0.2, 0.4)), int(count * rng.uniform(0.0, 0.15))
    left_out = set(order[wrong : wrong + missed])
    if count > 12 and rng.random() < 0.2:
        left_out |= set(range(int(count * rng.uniform(0.45, 0.8)), count))
    return _plain(
        rng,
        score,
        Room(float(rng.uniform(25, 45)), float(rng.uniform(0.1, 0.4))),
        scatter_cents=15.0,
        timing_ms=30.0,
        tempo=float(rng.uniform(0.75, 1.2)),
        wrong={i: int(rng.choice(_FAR if rng.random() < 0.12 else _NEAR)) for i in order[:wrong]},
        missed=tuple(sorted(left_out)),
        stray={int(rng.integers(1, count)): int(rng.choice([-3, 3, 5])) for _ in range(rng.integers(0, 3))},
        stops={int(rng.integers(1, count)): float(rng.uniform(0.4, 2.0)) for _ in range(rng.integers(0, 4))},
        restarts={int(rng.integers(2, count - 1)): 0} if rng.random() < 0.3 else {},
        forgets_key=bool(rng.random() < 0.2),
    )


def _voice_before(sound: NDArray[np.float32], rng: np.random.Generator) -> tuple[NDArray[np.float32], float]:
    voice = effects.speech(3.0, effects.loudness(sound), rng)
    return effects.around(sound, voice, np.zeros(1000, np.float32)), 3.0


def _rustling(sound: NDArray[np.float32], rng: np.random.Generator) -> tuple[NDArray[np.float32], float]:
    level = effects.loudness(sound) * 0.4
    return effects.around(sound, effects.rustle(5, level, rng), effects.rustle(5, level, rng)), 5.0


def _effect(
    change: Callable[[NDArray[np.float32], np.random.Generator], NDArray[np.float32]],
) -> Callable[..., tuple[NDArray[np.float32], float]]:
    """An effect that moves nothing in time."""
    return lambda sound, rng: (change(sound, rng), 0.0)


def _tuning_before(rng: np.random.Generator) -> Case:
    """Each open string bowed, and bowed once more, before the line begins."""
    case = _plain(rng, scale(rng))
    strings = [string.pitch for string in case.score.instrument.strings]
    line = [(pitch, Fraction(2), None) for pitch in strings for _ in range(2)]
    own = case.score
    opened = lay_out(
        line, title="tuning", instrument_key=own.instrument_key, key=own.key, meter=own.meter, tempo_bpm=90
    )
    before, _ = render(perform_score(opened, Habits(timing_ms=40), 5), own.instrument_key, RATE, 5)
    case.after = lambda s, r: (
        effects.around(s, before / effects.loudness(before) * effects.loudness(s), s[:0]),
        len(before) / RATE,
    )
    return case


def _brushing(rng: np.random.Generator) -> Case:
    case = _plain(rng, scale(rng))
    hertz = [frequency_hz(float(string.pitch.midi)) for string in case.score.instrument.strings]
    case.after = _effect(lambda s, r: effects.brushed(s, hertz, r))
    return case


def _along(rng: np.random.Generator) -> Case:
    """The demonstration plays too, from a loudspeaker; two notes are left out."""
    case = _plain(rng, scale(rng), missed=tuple(rng.choice(np.arange(2, 14), 2, replace=False).tolist()))
    shown, _ = render(perform_score(case.score, Habits(), 9), case.score.instrument_key, RATE, 9)
    case.after = _effect(lambda s, r: effects.beside(s, shown, float(r.uniform(12, 22))))
    return case


def _turned_early(rng: np.random.Generator) -> Case:
    """From some way up back down again: what lies over that is passed over."""
    score = scale(rng)
    score = build(
        Recipe(score.key.tonic, tempo_bpm=score.tempo_bpm, direction=Direction.UP_AND_DOWN), score.instrument_key
    )
    turn = int(rng.integers(4, len(score.notes) // 2 - 1))
    return _plain(rng, score, skipped=tuple(range(turn, len(score.notes) - turn)))


FAMILIES: dict[str, Callable[[np.random.Generator], Case]] = {
    "plain quarters": lambda r: _plain(r, scale(r)),
    "repeated, re-bowed": lambda r: _plain(r, scale(r, "eighths", (66, 100))),
    "sixteenths at 112": lambda r: _plain(r, scale(r, "sixteenths-eighths", (104, 113)), timing_ms=6.0),
    "slurred in 2 and 4": lambda r: _plain(r, slurred(scale(r), int(r.choice([2, 4])))),
    "staccato": lambda r: _plain(r, scale(r), short=0.5),
    "pizzicato": lambda r: _plain(r, scale(r, instrument=str(r.choice(["violin", "viola"]))), pizzicato=True),
    "long tones": lambda r: _plain(r, long_tones(scale(r, tempo=(66, 90)))),
    "vibrato": lambda r: _plain(r, scale(r, tempo=(56, 76)), vibrato_cents=float(r.uniform(12, 28))),
    "rests": lambda r: _plain(r, with_rests(scale(r))),
    "20 % off tempo, drifting": lambda r: _plain(
        r, scale(r), tempo=float(r.choice([0.8, 1.2])), drift=float(r.choice([-0.15, 0.15]))
    ),
    "hesitations": _stopping,
    "going back": _restart,
    "2 to 10 goes": lambda r: _plain(r, scale(r, tempo=(80, 120)), passes=int(r.integers(2, 11))),
    "wrong string or octave": lambda r: _plain(
        r, scale(r, instrument=str(r.choice(["violin", "viola"]))), shift_semitones=int(r.choice([7, 12]))
    ),
    "50 cents flat": lambda r: _plain(r, scale(r), tuning_cents=float(r.choice([-50, -40, 45]))),
    "one string 30 out": lambda r: _plain(r, scale(r), string_cents={"A": float(r.choice([-30, 30]))}),
    "key signature forgotten": lambda r: _plain(r, scale(r), forgets_key=True),
    "finger off by 35": lambda r: _plain(r, scale(r), finger_cents={2: float(r.choice([-35, 35]))}),
    "wrong and missed": _mistakes,
    "stray notes": lambda r: _plain(r, scale(r), stray={int(r.integers(2, 14)): int(r.choice([-3, 3, 5]))}),
    "noise 18 dB": lambda r: _plain(r, scale(r), Room(18)),
    "ringing room": lambda r: _plain(r, scale(r), Room(35, 0.5)),
    "phone codec": _moved(lambda r: _plain(r, scale(r)), lambda s, r: (effects.codec(s), 0.0)),
    "low cut": lambda r: _plain(
        r, scale(r, instrument=str(r.choice(["bass", "cello"]))), Room(38, 0.2, float(r.uniform(120, 220)))
    ),
    "clipped": lambda r: _plain(r, scale(r), Room(40, 0.1, gain=5.0)),
    "metronome heard": _moved(
        lambda r: replace(_plain(r, build(Recipe("D", tempo_bpm=72), str(r.choice(INSTRUMENTS))))),
        lambda s, r: (effects.metronome(s, 72), 0.0),
    ),
    "second player": _moved(
        lambda r: _plain(r, scale(r, instrument="violin")),
        lambda s, r: (effects.second_player(s, "viola", 26, int(r.integers(99))), 0.0),
    ),
    "voice before": _moved(lambda r: _plain(r, scale(r)), _voice_before),
    "rustling around": _moved(lambda r: _plain(r, scale(r)), _rustling),
    "E1 and B5": lambda r: _plain(r, extremes(r)),
    "poor but true": _poor,
    "stopped early": lambda r: _plain(r, scale(r), last=int(r.integers(6, 13))),
    "false starts": lambda r: _plain(r, scale(r), restarts=({2: 0} if r.random() < 0.5 else {1: 0, 4: 0})),
    "detached with air": lambda r: _plain(
        r, scale(r, str(r.choice(["quarters", "eighths", "sixteenths-eighths"]))), air_ms=float(r.uniform(20, 150))
    ),
    "slides": lambda r: _plain(
        r, scale(r), slide_cents=float(r.choice([-1, 1]) * r.uniform(40, 120)), slide_ms=float(r.uniform(120, 300))
    ),
    "tuning before": _tuning_before,
    "scratches": _moved(lambda r: _plain(r, scale(r)), _effect(effects.scratches)),
    "bounces": _moved(lambda r: _plain(r, scale(r)), _effect(effects.bounces)),
    "neighbour string brushed": _brushing,
    # Of the two at the top none can tell which was skipped.
    "skipped": lambda r: _plain(r, scale(r), skipped=(int(r.choice([2, 3, 4, 5, 6, 9, 10, 11, 12, 13])),)),
    "turned early": _turned_early,
    "play-along": _along,
    "television": _moved(
        lambda r: _plain(r, scale(r)),
        _effect(lambda s, r: effects.beside(s, effects.speech(len(s) / RATE, 1.0, r), float(r.uniform(6, 14)))),
    ),
    "a word in between": _moved(
        lambda r: _plain(r, scale(r)),
        _effect(lambda s, r: effects.spoken_into(s, float(r.uniform(0.5, 1.5)), r)),
    ),
}


def _not_this(kind: str) -> Callable[[np.random.Generator], Take]:
    def made(rng: np.random.Generator) -> Take:
        score = scale(rng)
        count = int(12 * RATE)
        if kind == "silence":
            sound = rng.normal(0, float(rng.choice([0, 1e-4])), count).astype(np.float32)
        elif kind == "noise":
            sound = rng.normal(0, 0.1, count).astype(np.float32)
        elif kind == "speech":
            sound = effects.speech(12, 0.2, rng)
        elif kind == "singing":
            sound = effects.singing(tune(rng, score), 0.2, rng)
        elif kind in OTHER_RHYTHMS:
            asked, given = ("eighths", "quarters") if kind == "longer notes" else ("quarters", "sixteenths-eighths")
            score = scale(rng, asked)
            key = score.instrument_key
            recipe = Recipe(score.key.tonic, given, score.tempo_bpm)
            performed = perform_score(build(recipe, key), Habits(scatter_cents=6, timing_ms=12), 1)
            dry, _ = sounding(str(rng.choice(SOURCES)), performed, key, 1)
            sound = place_in_room(dry, RATE, Room(40, 0.2), 1)
        elif kind == OTHER_KEY:
            habits = Habits(
                scatter_cents=6, timing_ms=12, shift_semitones=int(rng.choice([-4, -3, -2, -1, 1, 2, 3, 4]))
            )
            dry, _ = render(perform_score(score, habits, 1), score.instrument_key, RATE, 1)
            sound = place_in_room(dry, RATE, Room(40, 0.2), 1)
        else:
            other = tune(rng, score, stepwise=kind == BY_STEPS)
            if kind == "arpeggio":
                picks = [0, 2, 4, 7, 4, 2, 0, 2, 4, 7, 4, 2, 0, 4, 7, 0]
                other = lay_out(
                    [(score.notes[i].pitch, Fraction(1), None) for i in picks],
                    title="a",
                    instrument_key=score.instrument_key,
                    key=score.key,
                    meter=score.meter,
                    tempo_bpm=score.tempo_bpm,
                )
            dry, _ = render(
                perform_score(other, Habits(scatter_cents=6, timing_ms=12), 1), score.instrument_key, RATE, 1
            )
            sound = place_in_room(dry, RATE, Room(40, 0.2), 1)
        return Take(sound, score, (), score.tempo_bpm, Habits(), True)

    return made


OTHER_RHYTHMS = ("longer notes", "shorter notes")
BY_STEPS = "stepwise tune"
OTHER_KEY = "another key"
NOT_ALL_TOLD = (*OTHER_RHYTHMS, BY_STEPS)
"""The pitches are the exercise's, or go up and down as those of a poor try at a scale do: not all of these takes can be told
from one."""
REFUSED_KINDS = ("silence", "noise", "speech", "singing", "another tune", "arpeggio", OTHER_KEY, *NOT_ALL_TOLD)
REFUSALS = {name: _not_this(name) for name in REFUSED_KINDS}


def make_take(name: str, seed: int) -> Take:
    """One take of a family; the same name and seed give the same take."""
    rng = np.random.default_rng([seed, sum(map(ord, name))])
    if name in REFUSALS:
        return REFUSALS[name](rng)
    case = FAMILIES[name](rng)
    performed = perform_score(case.score, case.habits, seed)
    dry, truths = sounding(case.source, performed, case.score.instrument_key, seed)
    sound = place_in_room(dry, RATE, case.room, seed)
    if case.after is not None:
        sound, moved = case.after(sound, rng)
        truths = tuple(replace(t, onset_s=t.onset_s + moved, offset_s=t.offset_s + moved) for t in truths)
    take = Take(sound, case.score, truths, performed.tempo_bpm, case.habits, False)
    last = {n.index: n for n in performed.notes if n.go == performed.notes[-1].go and n.index is not None}
    for note in case.score.notes:
        own = last.get(note.index)
        off = None if own is None else own.midi - case.habits.tuning_cents / 100 - note.midi
        take.notes[note.index] = "missed" if off is None else "wrong_pitch" if abs(off) > 0.6 else "played"
    return take
