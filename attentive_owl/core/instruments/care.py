"""What a child is told before playing and while tuning, by instrument (common practice). The teacher's own words come first."""

from __future__ import annotations

from attentive_owl.core.instruments.catalogue import Instrument

PLAYING_CARE = (
    "Stop and shake out if anything hurts, and rest a few minutes in every half hour. Pain that stays is for the teacher and a doctor. "
    "Keep headphones low."
)
"""What goes with every practice (common practice)."""
_FAR_CENTS = 50.0
"""From here on it is more than a fine tuner's turn."""


def checklist(player: Instrument) -> tuple[str, ...]:
    """What to look at before the first note, in a few words each."""
    if player.stands:
        return ("Sit or stand tall", "Thumb soft", "Fingers curved", "Bow arm free")
    return ("Instrument up", "Wrist straight", "Thumb soft", "Fingers curved")


def tuning_care(player: Instrument) -> str:
    """The caution that goes with every tuning."""
    if player.fine_tuners:
        return (
            "You turn the fine tuners only, a little at a time. Pegs are for an adult: a string can snap, so keep your face away. "
            "A little out of tune? You may still practise."
        )
    return (
        f"A {player.name.lower()} has no fine tuners: an adult turns the machines, slowly, up from below. A string can snap, so keep "
        "your face away. A little out of tune? You may still practise."
    )


def tuning_care_for_adults(player: Instrument) -> str:
    """The same, to the adult who helps."""
    own = (
        "A child turns the fine tuners alone, a little at a time. Pegs are for you or the teacher"
        if player.fine_tuners
        else f"A {player.name.lower()} has no fine tuners. Its machines are for you or the teacher"
    )
    return (
        f"{own}: slowly, up from below, the face away, because a string can snap. What is too tight is loosened first. Where you are "
        "not sure, leave it: an instrument that is a little out of tune may still be practised on."
    )


def tuning_words(player: Instrument, string: str, cents: float, in_tune: bool) -> str:
    """What was heard of one string, and what to do: one or two sentences for the child."""
    if in_tune:
        return f"{string} is in tune."
    side = "low" if cents < 0 else "high"
    if abs(cents) > _FAR_CENTS:
        return f"{string} is much too {side}. Ask an adult to tune it."
    if not player.fine_tuners:
        return f"{string} is a little {side}. Ask an adult to turn its machine."
    # A fine tuner is a screw: to the right it tightens the string.
    return f"{string} is a little {side}. Turn its fine tuner a little to the {'right' if cents < 0 else 'left'}."
