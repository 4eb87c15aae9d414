"""A pupil's week on one page of paper, whoever hands it out: the teacher, or the page for home."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date

from attentive_owl.core.instruments import INSTRUMENTS, PLAYING_CARE, tuning_care_for_adults
from attentive_owl.formats.paper.week_sheet import WeekItem, WeekSheet
from attentive_owl.store.models import Pupil
from attentive_owl.web.schemas.studio import StudioSettings
from attentive_owl.web.studio import checklist_for


def week_paper(
    pupil: Pupil, settings: StudioSettings, day: date, items: Sequence[WeekItem], how_long: str
) -> WeekSheet:
    player = INSTRUMENTS[pupil.instrument]
    return WeekSheet(
        pupil=pupil.name,
        instrument=f"{player.name} {pupil.size}",
        day=day,
        how_long=how_long,
        items=items,
        checklist=checklist_for(settings, player),
        tuning=f"Low to high: {', '.join(string.name for string in player.strings)}. {tuning_care_for_adults(player)}",
        care=PLAYING_CARE,
        names=settings.names,
    )
