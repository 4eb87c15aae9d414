"""Which of the takes that wait want an ear, and why: so that an evening goes to those that need one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from statistics import median
from typing import Literal

from attentive_owl.core.judging.cause import robust_deviation
from attentive_owl.core.judging.good import MOST_UNCLEAR
from attentive_owl.core.judging.speech import counted

_LEAST_EARLIER = 4
"""So few takes have no usual share."""
_FAR_SHARE = 0.2
"""From the usual share: less is a day like others."""
_FAR_DEVIATIONS = 3.0
"""A take is unlike its player when its share of notes at home lies a fifth, and three deviations, from what is usual (by hand: fewer
would call every second take unusual)."""


class NeedKind(StrEnum):
    """In the order in which they are heard."""

    HELP = "help"
    UNCLEAR = "unclear"
    REFUSED = "refused"
    WRONG_NOTES = "wrong_notes"
    UNUSUAL = "unusual"
    LOOK = "look"
    PLAIN = "plain"
    """Good, and nothing to be said against it."""
    CHECKING = "checking"
    """Not listened to yet."""

    @property
    def rank(self) -> int:
        return list(NeedKind).index(self)


@dataclass(frozen=True)
class Usual:
    """What is usual for a player: the share of notes at home, over their last takes."""

    share: float
    deviation: float


@dataclass(frozen=True)
class WaitingTake:
    """What is known of one take without its sound. `home_share` and `notes` are of its newest report."""

    state: Literal["waiting", "checking", "checked", "refused", "stuck"]
    asks_for_help: bool = False
    too_hard: bool = False
    refusal: str | None = None
    """In two or three words."""
    good: bool = False
    home_share: float = 0.0
    notes: int = 0
    wrong: int = 0
    unclear: int = 0
    untimed: int = 0
    """Notes that were heard, but not when they began; 0 where time is not asked for."""
    causes: Sequence[tuple[str, str]] = field(default_factory=tuple)
    """(kind, title), the weightiest first."""
    usual: Usual | None = None


@dataclass(frozen=True)
class Need:
    """Whether a take wants a teacher's ear, and why."""

    kind: NeedKind
    why: str
    """For the teacher's list."""


def usual(home_shares: Sequence[float]) -> Usual | None:
    """Of a player's earlier takes; None for fewer than four, of which nothing is usual yet."""
    if len(home_shares) < _LEAST_EARLIER:
        return None
    return Usual(median(home_shares), robust_deviation(list(home_shares)))


def need_of(take: WaitingTake) -> Need:
    """The weightiest reason to hear a take."""
    if take.state in ("waiting", "checking"):
        return Need(NeedKind.CHECKING, "being checked")
    if take.asks_for_help or take.too_hard:
        said = [
            words
            for asked, words in ((take.asks_for_help, "asks for help"), (take.too_hard, "too hard, they say"))
            if asked
        ]
        return Need(NeedKind.HELP, "; ".join(said))  # fmt: skip
    if take.state == "stuck":
        return Need(NeedKind.UNCLEAR, "the check did not come through")
    if take.state == "refused":
        return Need(NeedKind.REFUSED, f"not judged: {take.refusal or 'see the take'}")
    if take.unclear > MOST_UNCLEAR * take.notes:
        return Need(NeedKind.UNCLEAR, f"{take.unclear} of {take.notes} notes not sure")
    for kind, title in take.causes:
        if kind in ("key_signature", "place"):
            return Need(NeedKind.WRONG_NOTES, title)
    if take.wrong:
        return Need(NeedKind.WRONG_NOTES, f"{counted(take.wrong, 'note')} on another pitch")
    if take.unclear + take.untimed > MOST_UNCLEAR * take.notes:
        untimed = f"{counted(take.untimed, 'note')} could not be timed"
        return Need(NeedKind.UNCLEAR, f"{untimed}, {take.unclear} not sure" if take.unclear else untimed)
    unlike = _unlike(take)
    if unlike:
        return Need(NeedKind.UNUSUAL, unlike)
    title = take.causes[0][1] if take.causes else ""
    if not take.good:
        return Need(NeedKind.LOOK, title or "not a good go yet")
    return Need(NeedKind.PLAIN, title)


def _unlike(take: WaitingTake) -> str:
    if take.usual is None:
        return ""
    away = take.home_share - take.usual.share
    if abs(away) < max(_FAR_SHARE, _FAR_DEVIATIONS * take.usual.deviation):
        return ""
    side = "above" if away > 0 else "below"
    return f"far {side} the usual: {100 * take.home_share:.0f} % of the notes at home, {100 * take.usual.share:.0f} % as a rule"
