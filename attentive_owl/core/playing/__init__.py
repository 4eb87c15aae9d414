"""Score -> sound: the demonstration, the click, and the simulated pupil with described habits."""

from attentive_owl.core.playing.accompaniment import Company
from attentive_owl.core.playing.counting import CountStyle, CountWord, count_in
from attentive_owl.core.playing.demonstration import demonstrate, demonstration_onsets
from attentive_owl.core.playing.habits import Habits, parse_habits
from attentive_owl.core.playing.performing import Performed, PerformedNote, perform_score
from attentive_owl.core.playing.room import Room, place_in_room
from attentive_owl.core.playing.synthesis import render

__all__ = [
    "Company",
    "CountStyle",
    "CountWord",
    "Habits",
    "Performed",
    "PerformedNote",
    "Room",
    "count_in",
    "demonstrate",
    "demonstration_onsets",
    "parse_habits",
    "perform_score",
    "place_in_room",
    "render",
]
