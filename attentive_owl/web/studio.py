"""The studio's own words and tapes."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from flask import send_file
from sqlalchemy import select

from attentive_owl.core.exercises import PATTERNS
from attentive_owl.core.instruments import Instrument, Mark, PlacedMark, checklist, instrument, place_marks
from attentive_owl.formats.paper.tape_strip import tape_strip_pdf
from attentive_owl.store.models import Pupil, Studio
from attentive_owl.store.tapes import tapes_of
from attentive_owl.web.access import own_studio, people_only, signed_in, teacher_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import Problem
from attentive_owl.web.schemas.studio import StudioSettings, TapeList, TapeOut, TapeQuestion

api = Area("studio", __name__, 401)


def studio_settings() -> StudioSettings:
    """Of the visitor's studio, as they were when the request came."""
    return StudioSettings.model_validate(visitor().settings)


@api.get("/studio/settings", responses={200: StudioSettings})
@signed_in
def words() -> Any:
    return reply(studio_settings())


@api.put("/studio/settings", responses={200: StudioSettings, 422: Problem})
@people_only
def change_words(body: StudioSettings) -> Any:
    for key, cue in body.cues.items():
        if key not in PATTERNS:
            raise ProblemError(422, f"There is no pattern {key}.")
        if len(cue) != PATTERNS[key].notes:
            raise ProblemError(422, f"{PATTERNS[key].name} needs {PATTERNS[key].notes} syllables, one for each note.")
    with own_studio() as session:
        studio = session.get_one(Studio, visitor().studio_id)
        studio.settings = body.model_dump(mode="json")
    return reply(body)


def checklist_for(settings: StudioSettings, player: Instrument) -> list[str]:
    """What is looked at before playing: the studio's own list, or ours."""
    return settings.checklists.get(player.key) or list(checklist(player))


def marks_for(words: StudioSettings, instrument_key: str, own: Sequence[Any] = ()) -> tuple[Mark, ...]:
    return tapes_of(words.model_dump(mode="json"), instrument_key, own)


def _placed(query: TapeQuestion) -> tuple[PlacedMark, ...]:
    own: Sequence[Any] = ()
    if query.pupil_id is not None:
        with own_studio() as session:
            pupil = session.scalar(select(Pupil).where(Pupil.id == query.pupil_id))
        if pupil is None or (visitor().person.role == "pupil" and pupil.id != visitor().person.id):
            raise not_found()
        own = pupil.marks
    marks = marks_for(studio_settings(), query.instrument, own)
    return place_marks(instrument(query.instrument), query.string_length_mm, marks)


@api.get("/tapes", responses={200: TapeList})
@signed_in
def tapes(query: TapeQuestion) -> Any:
    """Where each tape goes on an instrument of this size and string length."""
    return reply(
        TapeList(
            tapes=[
                TapeOut(
                    name=placed.mark.name,
                    colour=placed.mark.colour,
                    shade=placed.mark.shade,
                    own_shade=placed.mark.own_shade,
                    semitones=placed.mark.semitones,
                    mm=placed.mm,
                    notes=list(placed.notes),
                )
                for placed in _placed(query)
            ]
        )
    )


@api.get("/tapes.pdf")
@teacher_only
def tape_strip(query: TapeQuestion) -> Any:
    """The strip to print at true size."""
    pdf = tape_strip_pdf(instrument(query.instrument), query.size, query.string_length_mm, _placed(query))
    return send_file(io.BytesIO(pdf), mimetype="application/pdf", download_name=f"tapes-{query.instrument}.pdf")
