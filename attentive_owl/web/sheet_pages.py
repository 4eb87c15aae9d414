"""What each pupil gets of a week's sheet: for whom an exercise is, on what terms, and the page that it makes, on screen and on paper."""

from __future__ import annotations

import uuid
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import date

from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import Ease, Score, family, title
from attentive_owl.core.instruments import UnplayableError
from attentive_owl.core.planning import practice_minutes
from attentive_owl.core.theory import in_vocabulary
from attentive_owl.formats.paper.sheet import SheetPart
from attentive_owl.formats.paper.week_sheet import WeekItem, WeekSheet
from attentive_owl.store.exercises import recipe_from_document, score_for
from attentive_owl.store.models import ALSO_IN, Pupil
from attentive_owl.web.people.listing import active_pupils
from attentive_owl.web.recipes import recipe_in
from attentive_owl.web.schemas.sheets import PageItem, PageOfPupil, SheetChange, SheetItem
from attentive_owl.web.schemas.studio import StudioSettings
from attentive_owl.web.studio import marks_for
from attentive_owl.web.week_paper import week_paper


@dataclass
class Page:
    pupil: Pupil
    items: list[tuple[SheetItem, SheetChange, Score]] = field(default_factory=list)
    can_not: list[str] = field(default_factory=list)


def pages_of(session: Session, items: list[SheetItem]) -> list[Page]:
    """For each pupil what they get, by name; those who get nothing are not there."""
    everybody = active_pupils(session)
    classes: dict[uuid.UUID, set[uuid.UUID]] = defaultdict(set)
    for pupil in everybody:
        classes[pupil.group_id].add(pupil.id)
    for class_id, pupil_id in session.execute(select(ALSO_IN).where(ALSO_IN.c.pupil_id.in_([p.id for p in everybody]))):
        classes[class_id].add(pupil_id)
    pages = {pupil.id: Page(pupil) for pupil in everybody}
    for item in items:
        changes = {own.pupil_id: own for own in item.changes}
        document = item.recipe.model_dump(mode="json")
        for pupil in _audience(item, everybody, classes):
            change = changes.get(pupil.id, SheetChange(pupil_id=pupil.id))
            if change.left_out:
                continue
            try:
                ease = change.ease or Ease(pupil.ease)
                score = score_for(document, pupil.instrument, change.target_bpm or item.target_bpm, ease)
            except UnplayableError as error:
                pages[pupil.id].can_not.append(f"{title(recipe_from_document(document))}: {error}")
                continue
            pages[pupil.id].items.append((item, change, score))
    return [own for own in pages.values() if own.items or own.can_not]


def _audience(item: SheetItem, everybody: list[Pupil], classes: dict[uuid.UUID, set[uuid.UUID]]) -> Iterator[Pupil]:
    own = item.audience
    in_class = {pupil_id for one in own.class_ids for pupil_id in classes.get(one, ())}
    for pupil in everybody:
        if own.pupil_ids:
            if pupil.id in own.pupil_ids:
                yield pupil
        elif (not own.class_ids or pupil.id in in_class) and (
            not own.instruments or pupil.instrument in own.instruments
        ):
            yield pupil


def terms_for(item: SheetItem, change: SheetChange) -> SheetItem:
    """The terms of an item as they are for one pupil."""
    target = change.target_bpm or item.target_bpm
    ladder = item.ladder_from_bpm
    return item.model_copy(
        update={
            "target_bpm": target,
            "good_repeats": change.good_repeats or item.good_repeats,
            "note": item.note if change.note is None else change.note,
            "ladder_from_bpm": None if ladder is None else min(ladder, target),
            "changes": [],
        }
    )


def page_out(own: Page) -> PageOfPupil:
    items = []
    for item, change, _ in own.items:
        terms = terms_for(item, change)
        items.append(
            PageItem(
                title=title(recipe_in(item.recipe)),
                recipe=item.recipe,
                target_bpm=terms.target_bpm,
                good_repeats=terms.good_repeats,
                days_a_week=terms.days_a_week,
                note=terms.note,
                ease=change.ease or Ease(own.pupil.ease),
            )
        )
    pupil = own.pupil
    return PageOfPupil(
        pupil_id=pupil.id, name=pupil.name, instrument=pupil.instrument, items=items, can_not=own.can_not
    )


def paper_of(page: Page, words: StudioSettings, due_on: date | None, today: date) -> WeekSheet:
    pupil = page.pupil
    until = f"; for {due_on:%A} {due_on.day} {due_on:%B}" if due_on else ""
    items = []
    for item, change, score in page.items:
        terms, recipe = terms_for(item, change), recipe_in(item.recipe)
        goes = f"{terms.good_repeats} good {'go' if terms.good_repeats == 1 else 'goes'} a day"
        part = (
            None if family(recipe.family).hidden else SheetPart(score, marks_for(words, pupil.instrument, pupil.marks))
        )
        how = f"{goes}, on {terms.days_a_week} days, up to {terms.target_bpm:.0f}{until}."
        items.append(WeekItem(part, in_vocabulary(title(recipe), words.values), how, terms.note, recipe.signs))
    minutes = practice_minutes(
        (
            terms_for(item, change).good_repeats,
            float(score.end_beats - score.start_beats) * 60 / score.tempo_bpm,
        )
        for item, change, score in page.items
    )
    return week_paper(pupil, words, today, items, f"About {minutes} minutes a day: little and often.")
