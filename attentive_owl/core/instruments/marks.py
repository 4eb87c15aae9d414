"""What a tape is called and looks like; its place on the fingerboard is arithmetic (`tapes`)."""

from __future__ import annotations

from dataclasses import dataclass

TAPE_SHADES = {
    "amber": "#d99a2b",
    "teal": "#2f7f86",
    "plum": "#6f4a72",
    "white": "#f7f3ea",
    "moss": "#6b7a3a",
    "rust": "#a4552f",
    "slate": "#5b6770",
}
"""Colours that are offered; any other name has a shade of the teacher's own."""
_PLAIN_SHADE = "#d9d2c3"


@dataclass(frozen=True)
class Mark:
    """A tape: its name, its colour as the teacher calls it, and semitones above the open string."""

    name: str
    colour: str
    semitones: int
    own_shade: str = ""
    """What the colour looks like, as #rrggbb, where it is none of `TAPE_SHADES`, or another shade of it."""

    @property
    def shade(self) -> str:
        return self.own_shade or TAPE_SHADES.get(self.colour, _PLAIN_SHADE)
