"""Who may do what: the one table of it. A route names the right that it asks for; nothing else in the program asks for a role."""

from __future__ import annotations

from enum import StrEnum


class Right(StrEnum):
    PRACTISE = "practise"
    """What is set to a pupil, their own takes and record."""
    TEACH = "teach"
    """Hearing and marking every take of the studio, setting exercises, the lesson, the calendar."""
    PEOPLE = "people"
    """Pupils and classes, cards and consent, erasing, and the studio's settings."""
    HOUSE = "house"
    """Who teaches here, and the studio as a whole."""


class Rank(StrEnum):
    OWNER = "owner"
    TEACHER = "teacher"
    ASSISTANT = "assistant"
    LEFT = "left"
    """Taught here once: what they wrote stays, and no door opens."""
    PUPIL = "pupil"
    ADULT = "adult"
    """At home: comes with the pupil's card, and may what the pupil may; it is known that it was the adult."""


MAY: dict[Rank, frozenset[Right]] = {
    Rank.OWNER: frozenset({Right.TEACH, Right.PEOPLE, Right.HOUSE}),
    Rank.TEACHER: frozenset({Right.TEACH, Right.PEOPLE}),
    Rank.ASSISTANT: frozenset({Right.TEACH}),
    Rank.LEFT: frozenset(),
    Rank.PUPIL: frozenset({Right.PRACTISE}),
    Rank.ADULT: frozenset({Right.PRACTISE}),
}

WHY_NOT: dict[Right, str] = {
    Right.PRACTISE: "This page is for pupils.",
    Right.TEACH: "This page is for teachers.",
    Right.PEOPLE: "This is for the teachers of the studio; an assistant asks one of them.",
    Right.HOUSE: "This is for whoever runs the studio.",
}
"""To somebody who may not."""
