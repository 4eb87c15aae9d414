"""Exact onsets: when a note's own sound comes within 20 dB of its sustained level.

After silence the whole level tells it. Where the note before still rings, the level of the new note's own partials
does: those that stand clear of every partial of the old note, through a window long enough to part them. Two notes of
one pitch have no partials of their own; there it is the moment at which the sound stops repeating itself, looked for about
where the dip between them stands, moved by what other notes of the same take show of how early the own sound begins
before the dip (the same bow, string and room). Where the dip is clear, the rise after it says how soon before it a note can have begun at the
earliest: what breaks sooner is the bow that stops, not the bow that starts. In a slur it is the moment when the pitch has come half way. How long the own sound comes before the crossing of the pitch is much the same all through
a take; a note whose partials say something far from that (they were the old note's, or the bow's) gets the take's value. Where they say
something else of every note, as beside a television, only the crossing tells.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view

from attentive_owl.core.listening.features.filters import moving_mean, moving_min
from attentive_owl.core.listening.features.frames import HOP_S, RATE_HZ, Array, Samples, decibels, running_power
from attentive_owl.core.listening.features.levels import CORE, FINE_HOP, FINE_HOP_S, sustained_db
from attentive_owl.core.listening.features.ordered import middle, percentile
from attentive_owl.core.listening.features.period_breaks import residue, step_db, windows
from attentive_owl.core.listening.features.pitch_candidates import Candidates
from attentive_owl.core.theory import frequency_hz

ONSET_DROP_DB = 20.0
"""Under the sustained level: a note begins when it comes so near. By definition here."""
_OWN_DROP_DB = 26.0
"""The partials that a note has to itself are mostly upper ones, and those speak later than the note: their lower part
tells when it begins (fitted on simulated and sampled strings)."""
_RINGS_ON_S = 0.4
"""After a longer gap than this the old note is gone."""
_BACK_S = 0.25
"""So far before its segment an onset is looked for."""
_LEAST_LOOK_S = 0.02
"""And over so much at least."""
_LEAD_RANGE_S = (-0.04, 0.2)
"""By how much the own sound may come before the pitch crosses over: what lies outside is another sound."""
_LEAD_FIRST_GUESS_S = 0.02
"""Where fewer than three onsets of a take tell it."""
_LEADS_APART_S, _SOONEST_PERCENT = 0.03, 20.0
"""Leads whose median distance from their median is greater are those of something else in the room, and only the shortest are the
pupil's. By hand: 19 to 52 ms beside a television, 25 at most in 85 takes of all other families."""
_LEAD_SPREAD_S, _LEAD_SPREAD_PERIODS = 0.035, 6.0
"""How far a single lead may be from that of the take, and so many periods of the lower note more: low strings speak unevenly."""
_BACK_SHARE = 0.45
"""Of the note before: its own attack is not looked into."""
_DIP_DB, _DEEP_DIP_DB = 3.0, 6.0
"""A dip that counts, and one in which the old note has all but gone."""
_ALONE_S = 0.02
"""What the partials say stands alone when it is this far from the middle of the three signs."""
_ABOVE_FLOOR_DB = 5.0
"""Clear of what still rings, or of the room."""
_SURELY_BEFORE_S = 0.05
"""So long before its segment the note can not sound yet: the floor is measured there."""
_LEAST_RISE_DB = 3.0
"""A level that rises less than this tells no moment."""
_STAY_FRAMES = 6
"""Steps of 5 ms for which the level has to stay."""
_ATTACK_S = 0.12
"""After its beginning a plucked note is loudest."""
_PLUCKED_DB = 9.0
"""So far under its attack the level of a plucked note counts as sustained."""
_AHEAD_S = 0.16
"""So far into its segment an onset is looked for."""
_BREAK_BEFORE_S, _BREAK_AFTER_S = 0.12, 0.02
"""About the dip between two notes of one pitch: the sound stops repeating itself before the level is lowest."""
_BREAK_LOW_S = (0.05, 0.03)
"""About the onset of a low note, before and after."""
_LOW_HZ = 110.0
"""Under it a window that parts the partials is longer than an attack."""
_BREAK_PULL_DB_S = 50.0
"""By so much (dB for each second from the guess) a break has to be steeper to be taken further away."""
_BREAK_PULL_DB, _LEAST_LEAD_S = 1.0, 0.003
"""On one pitch the sound breaks twice, where the bow stops and where it speaks again. Where other notes of the take begin at their dips, the second is
meant, and is near: a break that lies further before the dip by as much as the take's own lead has to be so much steeper (by hand, on
simulated, sampled and waveguide strings); never less than by the pull of any other."""
_CLEAR_DIP_DB = 8.0
"""In so deep a dip it is told how the new note rises."""
_MOST_AIR_S = 0.08
"""A bow stops so long before the next stroke at most: what is seen earlier is a note that begins softly."""
_GONE_DB, _RISING_S, _SOONER_S_DB = 12.0, 0.08, 0.006
"""In a deeper dip than that the old note has all but gone, and the new one begins at most so long before its bottom, and so much later for
each decibel more: a break further before it is the bow that stops (by hand: of 450 simulated notes in such dips none begins so soon, of 320
sampled ones 23)."""
_NOTCH = 15
"""Milliseconds over which the level is taken."""
_SOONER, _SOONER_S = 1.5, 0.01
"""A note may have risen so many times slower before such a dip than after it, and the fine level is this much late (by hand, on the same
strings)."""
_BREAK_GIVES_S = 0.005
"""Where the break and the guess differ by less the truth lies between."""
_SMEAR = 0.11
"""How early a long window sees a rise, as a share of it."""
_STEP = 110
"""5 ms; the crossing is interpolated."""
_PARTIALS = 10
"""So many of a note are looked at, up to the frequency under this."""
_TOP_HZ = 6000.0
"""Over it partials of strings are weak."""


@dataclass(frozen=True)
class Span:
    """A segment of the alignment, in seconds; `midi` on the true (not the tuned) scale."""

    begin_s: float
    end_s: float
    midi: float
    slurred: bool


def find_onsets(spans: list[Span], samples: Samples, fine: Array, candidates: Candidates) -> list[float]:
    """Onsets in seconds, one a span; spans follow one another in time. samples: shape (n,); fine: dB every millisecond, shape (milliseconds,)."""
    places = [_place(number, spans, samples, fine, candidates) for number in range(len(spans))]
    leads = [p.crossed - p.own for p in places if p.own is not None and p.crossed is not None]
    leads = [lead for lead in leads if _LEAD_RANGE_S[0] <= lead <= _LEAD_RANGE_S[1]]
    known = leads if len(leads) >= 3 else [_LEAD_FIRST_GUESS_S]
    usual = float(np.median(known))
    if float(np.median(np.abs(np.array(known) - usual))) > _LEADS_APART_S:
        # Something else in the room sounds on those partials, and sooner.
        usual = float(np.percentile(known, _SOONEST_PERCENT))
        places = [replace(place, own=None) for place in places]
    settled = [_settled(place, usual) for place in places]
    dips = [p.bottom - at for p, at in zip(places, settled, strict=True) if p.crossed is not None and p.depth > 1.0]
    lead = float(np.clip(np.median(dips), -0.01, 0.06)) if len(dips) >= 3 else None
    known_lead = _LEAD_FIRST_GUESS_S if lead is None else lead
    pull = max(_BREAK_PULL_DB / max(known_lead, _LEAST_LEAD_S), _BREAK_PULL_DB_S)
    onsets: list[float] = []
    for place, at in zip(places, settled, strict=True):
        if place.own is not None and place.lowest_hz < _LOW_HZ:
            at = _by_most(place, at, usual, lead)
        elif place.own is None and place.crossed is not None and place.depth > _DEEP_DIP_DB:
            at = min(at, place.bottom)
        if place.repeated:
            if place.depth > 1.0:
                # The dip of a short note says more of its onset than the rest of the take does.
                at -= min(lead or 0.0, 0.2 * (place.span.end_s - place.span.begin_s))
            first = max(place.bottom - _BREAK_BEFORE_S, onsets[-1] + 0.03)
            broken = _broken(place.span.midi, at, first, place.bottom + _BREAK_AFTER_S, samples, pull)
            at = at if _bow_stopped(place, broken) else broken
        elif place.own is not None and place.old_midi is not None and place.lowest_hz < _LOW_HZ:
            # So low a note needs a long window to tell its partials apart; when the old period breaks is told sooner.
            first = max(at - _BREAK_LOW_S[0], onsets[-1] + 0.03)
            at = 0.5 * (at + _broken(place.old_midi, at, first, at + _BREAK_LOW_S[1], samples))
        if place.onset is None and place.bottom - at < _MOST_AIR_S:
            at = max(at, _earliest(place, fine))
        onsets.append(max(at, onsets[-1] + 0.03) if onsets else at)
    return onsets


@dataclass(frozen=True)
class _Place:
    """What is seen of one onset. Where `onset` is given it is plain; else `crossed` (the pitch) and `own` (its partials)
    or, for a repeated note, the dip tell."""

    span: Span
    bottom: float
    depth: float
    onset: float | None = None
    crossed: float | None = None
    own: float | None = None
    lowest_hz: float = 0.0
    old_midi: float | None = None

    @property
    def repeated(self) -> bool:
        return self.onset is None and self.crossed is None


def _place(number: int, spans: list[Span], samples: Samples, fine: Array, candidates: Candidates) -> _Place:
    span = spans[number]
    earlier = spans[number - 1] if number else None
    least = earlier.begin_s + 0.03 if earlier is not None else 0.0
    if earlier is not None and span.begin_s - earlier.end_s > _RINGS_ON_S:
        earlier = None
    bottom, depth = _dip(span, earlier, least, fine)
    if earlier is None:
        return _Place(span, bottom, depth, onset=_after_silence(span, least, fine))
    if depth >= ONSET_DROP_DB + 3.0 and not (span.slurred and abs(earlier.midi - span.midi) > 0.5):
        # The dip goes further down than that: what the room's own level is does not matter.
        return _Place(span, bottom, depth, onset=_after_silence(span, bottom, fine, hushed=True))
    if abs(earlier.midi - span.midi) <= 0.5:
        return _Place(span, bottom, depth)
    crossed = _crossing(earlier.midi, span, candidates)
    if span.slurred:
        return _Place(span, bottom, depth, onset=crossed)
    lowest_hz = frequency_hz(min(earlier.midi, span.midi))
    return _Place(
        span, bottom, depth, None, crossed, _own_onset(earlier, span, least, samples), lowest_hz, earlier.midi
    )


def _settled(place: _Place, usual_lead: float) -> float:
    if place.onset is not None:
        return place.onset
    if place.crossed is None:
        return place.bottom if place.depth > 1.0 else place.span.begin_s
    spread = _LEAD_SPREAD_S + _LEAD_SPREAD_PERIODS / place.lowest_hz
    if place.own is None or abs(place.crossed - place.own - usual_lead) > spread:
        return place.crossed - usual_lead
    return place.own


def _by_most(place: _Place, at: float, usual_lead: float, dip_lead: float | None) -> float:
    """Low notes, whose partials are hard to part: where what these say stands alone, what lies between that, the crossing
    and the dip. By the time the level is lowest the new note sounds."""
    assert place.own is not None
    assert place.crossed is not None
    if dip_lead is None or place.depth < _DIP_DB:
        return at
    between = sorted([place.own, place.crossed - usual_lead, place.bottom - dip_lead])[1]
    if abs(at - between) > _ALONE_S:
        at = between
    return min(at, place.bottom - 0.5 * max(dip_lead, 0.0)) if place.depth > _DEEP_DIP_DB else at


def _dip(span: Span, earlier: Span | None, least: float, fine: Array) -> tuple[float, float]:
    """Where the level is lowest around the span's begin, and how far under the sustained level."""
    since = span.begin_s if earlier is None else min(earlier.end_s, span.begin_s)
    low = max(int(max(since - 0.06, least) / FINE_HOP_S), 0)
    high = min(int((span.begin_s + min(0.09, 0.45 * (span.end_s - span.begin_s))) / FINE_HOP_S) + 1, len(fine))
    if high - low < 3:
        return span.begin_s, 0.0
    bottom = low + int(np.argmin(fine[low:high]))
    return bottom * FINE_HOP_S, sustained_db(span.begin_s, span.end_s, fine) - float(fine[bottom])


def _bow_stopped(place: _Place, broken_s: float) -> bool:
    """Whether a break lies so far before a deep dip that it is the bow that stops there, and not yet the one that starts."""
    rising_s = _RISING_S - _SOONER_S_DB * (place.depth - _GONE_DB)
    return place.depth >= _GONE_DB and place.bottom - broken_s >= rising_s


def _earliest(place: _Place, fine: Array) -> float:
    """A note is never louder than all that sounds. At the bottom of a clear dip it lies as far under its sustained level as the dip is
    deep, or further; and as an attack is steepest, in decibels, where it begins, what was left to 20 dB took it no longer than its rise
    after the dip says."""
    if place.depth < _CLEAR_DIP_DB:
        return 0.0
    # Sounds that beat against one another make notches of a few milliseconds that are no dips.
    around = int(place.bottom / FINE_HOP_S)
    first = max(around - 2 * _NOTCH, 0)
    level = moving_mean(fine[first : int(place.span.end_s / FINE_HOP_S)], _NOTCH // 2, _NOTCH // 2)
    if not len(level):
        return 0.0
    bottom = int(np.argmin(level[: 4 * _NOTCH]))
    depth = float(fine[around] + place.depth - level[bottom])
    risen = np.flatnonzero(level[bottom:] >= level[bottom] + 0.5 * depth)
    if depth < _CLEAR_DIP_DB or not len(risen):
        return 0.0
    seconds_a_db = max(int(risen[0]), 1) * FINE_HOP_S / (0.5 * depth)
    return (first + bottom) * FINE_HOP_S - _SOONER * max(ONSET_DROP_DB - depth, 0.0) * seconds_a_db - _SOONER_S


def _after_silence(span: Span, least: float, fine: Array, hushed: bool = False) -> float:
    """When the level comes up to the sustained one for good: the last time before the note sounds fully at which it
    was too low. Where the room never lets it fall 20 dB (else it is `hushed`), when it leaves the room's own level."""
    # A plucked note has no sustained level; what follows its attack stands in for it.
    begin = int(span.begin_s / FINE_HOP_S)
    attack = fine[begin : begin + int(_ATTACK_S / FINE_HOP_S) + 1]
    sustained = max(sustained_db(span.begin_s, span.end_s, fine), float(attack.max(initial=-120.0)) - _PLUCKED_DB)
    first_s = max(least, span.begin_s - _BACK_S, 0.0)
    # Where the sound broke off within the note, so late that its middle has begun, a little is looked at still.
    last_s = max(span.begin_s + CORE[0] * (span.end_s - span.begin_s), first_s + _LEAST_LOOK_S)
    low = int(first_s / FINE_HOP_S)
    piece = fine[low : int(last_s / FINE_HOP_S) + 1]
    wanted = sustained - ONSET_DROP_DB
    if not hushed:
        wanted = max(wanted, percentile(piece[: max(begin - low, 1)], 20) + _ABOVE_FLOOR_DB)
    below = np.flatnonzero(piece < wanted)
    # A bow that scratches before its string speaks flickers for some milliseconds; a silence lasts, or is where the piece begins.
    lasting = below[(moving_mean((piece < wanted).astype(np.float64), _NOTCH, 0)[below] == 1.0) | (below < _NOTCH)]
    return (low + (int(lasting[-1]) + 1 if len(lasting) else 0)) * FINE_HOP_S


def _broken(
    midi: float, guess_s: float, first_s: float, last_s: float, samples: Samples, pull: float = _BREAK_PULL_DB_S
) -> float:
    """When the sound stops repeating itself: of the steps between two moments the steepest, near the guess rather than far
    from it. Where that and the guess differ a little, the truth lies between them."""
    period = np.array([RATE_HZ / frequency_hz(midi)])
    before, after = (int(window[0]) for window in windows(period))
    reach = before + int(period[0]) + 1
    begin, stop = int(first_s * RATE_HZ), min(int(last_s * RATE_HZ), len(samples) - after)
    if begin < reach or stop - begin < FINE_HOP:
        return guess_s
    left = running_power(residue(samples[begin - reach : stop + after], period))
    at = np.arange(reach, reach + stop - begin, FINE_HOP)
    step = step_db(left, at, np.array(before), np.array(after), np.array(0.0))
    time = (begin - reach + at) / RATE_HZ
    best = float(time[np.argmax(step - pull * np.abs(time - guess_s))])
    return best + float(np.clip(guess_s - best, -_BREAK_GIVES_S, _BREAK_GIVES_S))


def _clear_partials(midi: float, earlier_midi: float, least_gap_hz: float) -> Array:
    """Partials (Hz) of a note that stand clear of all partials of another."""
    own = frequency_hz(midi) * np.arange(1, _PARTIALS + 1)
    own = own[own < _TOP_HZ]
    other = frequency_hz(earlier_midi)
    nearest = np.maximum(np.rint(own / other), 1.0) * other
    found: Array = own[np.abs(own - nearest) >= least_gap_hz]
    return found


def _own_onset(earlier: Span, span: Span, least: float, samples: Samples) -> float | None:
    """When the partials that only the new note has reach 20 dB under their sustained level, and stay; None if there
    are none. Where the old note or the room never lets them fall that far, when they leave that floor for good."""
    lowest_hz = frequency_hz(min(earlier.midi, span.midi))
    window_s = float(np.clip(5.5 / lowest_hz, 0.03, 0.11))
    partials = _clear_partials(span.midi, earlier.midi, 2.0 / window_s)
    if not len(partials):
        return None
    length = int(window_s * RATE_HZ)
    back = min(_BACK_S, _BACK_SHARE * (earlier.end_s - earlier.begin_s))
    first = max(span.begin_s - back, least - 0.02, 0.0)
    last = min(span.begin_s + 0.5, span.end_s)
    begin = int(first * RATE_HZ)
    count = max((int(last * RATE_HZ) - begin) // _STEP, 1)
    level = _partial_level(samples, begin, count, length, partials)
    time = (begin + _STEP * np.arange(count)) / RATE_HZ
    since = time - span.begin_s
    core = (since > CORE[0] * (last - span.begin_s)) & (since < CORE[1] * (last - span.begin_s))
    if core.sum() < 3:
        return None
    # A plucked note has no sustained level; what follows its attack stands in for it.
    sustained = max(middle(level[core]), float(level[np.abs(since) < _ATTACK_S].max()) - _PLUCKED_DB)
    before = level[since < -_SURELY_BEFORE_S]
    floor = percentile(before, 40) if len(before) > 4 else float(level[:_STAY_FRAMES].min())
    wanted = max(sustained - _OWN_DROP_DB, floor + _ABOVE_FLOOR_DB)
    if wanted > sustained - _LEAST_RISE_DB:
        return None
    stays = moving_min(level, 0, _STAY_FRAMES - 1)
    risen = np.flatnonzero((level >= wanted) & (stays >= wanted - 2.0) & (time > least) & (since < _AHEAD_S))
    if not len(risen):
        return None
    at = int(risen[0])
    step = level[at] - level[at - 1] if at else 0.0
    early = (level[at] - wanted) / step * _STEP / RATE_HZ if step > 0 else 0.0
    return float(time[at] - min(early, _STEP / RATE_HZ) + _SMEAR * window_s)


def _partial_level(samples: Samples, first: int, count: int, length: int, partials: Array) -> Array:
    """Level of some partials (Hz) in `count` windows of `length` samples, `_STEP` apart, the first centred on `first`."""
    start = first - length // 2
    stop = start + (count - 1) * _STEP + length
    piece = np.pad(samples[max(start, 0) : min(stop, len(samples))], (max(-start, 0), max(stop - len(samples), 0)))
    frames = sliding_window_view(piece, length)[::_STEP] * np.hanning(length).astype(np.float32)
    angle = 2 * np.pi * np.outer(np.arange(length) / RATE_HZ, partials)
    turns = np.concatenate([np.cos(angle), np.sin(angle)], axis=1).astype(np.float32)
    return decibels(np.sum((frames @ turns).astype(np.float64) ** 2, axis=1) / length**2)


def _crossing(earlier_midi: float, span: Span, candidates: Candidates) -> float:
    """When the pitch has come half way from one note to the next."""
    first = int((span.begin_s - 0.06) / HOP_S)
    last = int((span.begin_s + min(0.09, 0.45 * (span.end_s - span.begin_s))) / HOP_S) + 1
    middle = 0.5 * (earlier_midi + span.midi)
    frames, midi = candidates.nearest(middle, first, last, abs(span.midi - earlier_midi) / 2 + 0.7)
    if len(frames) < 2:
        return span.begin_s
    arrived = (midi > middle) == (span.midi > earlier_midi)
    # The place that leaves the fewest frames on the wrong side of it.
    left_wrong = np.concatenate([[0], np.cumsum(arrived)])
    right_wrong = np.concatenate([np.cumsum(~arrived[::-1])[::-1], [0]])
    cut = int(np.argmin(left_wrong + right_wrong))
    late_s = candidates.heard_late_s(middle)
    if cut in (0, len(frames)):
        return float(frames[min(cut, len(frames) - 1)] * HOP_S) - late_s
    return float(0.5 * (frames[cut - 1] + frames[cut]) * HOP_S) - late_s
