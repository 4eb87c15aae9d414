"""Out of the workshop: a sheet to hand out, and a line as a file."""

from __future__ import annotations

import io
from typing import Any

from flask import send_file
from sqlalchemy import select

from attentive_owl.core.instruments import UnplayableError
from attentive_owl.core.playing import count_in
from attentive_owl.formats.midi import write_midi
from attentive_owl.formats.musicxml import write_musicxml
from attentive_owl.formats.paper.sheet import Sheet, SheetPart, sheet_pdf
from attentive_owl.store.exercises import recipe_from_document, score_for
from attentive_owl.store.models import Studio
from attentive_owl.web.access import own_studio, teacher_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.schemas.common import Problem
from attentive_owl.web.schemas.scores import ExportQuestion, SheetQuestion
from attentive_owl.web.studio import marks_for, studio_settings

api = Area("paper", __name__, 401)
_KINDS = {
    "musicxml": (write_musicxml, "application/vnd.recordare.musicxml+xml", "musicxml"),
    "midi": (write_midi, "audio/midi", "mid"),
}


@api.post("/sheet", responses={422: Problem})
@teacher_only
def sheet(body: SheetQuestion) -> Any:
    """The exercise on paper, as a PDF; instruments that can not play it are left out."""
    document = body.recipe.model_dump(mode="json")
    words = studio_settings()
    parts, reason = [], ""
    for key in body.instruments:
        try:
            parts.append(SheetPart(score_for(document, key), marks_for(words, key)))
        except UnplayableError as error:
            reason = str(error)
    if not parts:
        raise ProblemError(422, f"{reason[:1].upper()}{reason[1:]}.")
    with own_studio() as session:
        studio = session.scalar(select(Studio.name).where(Studio.id == visitor().studio_id)) or ""
    counted, _ = count_in(parts[0].score, words.count_in, words.count_in_six)
    made_from = recipe_from_document(document)
    pdf = sheet_pdf(
        Sheet(
            studio=studio,
            parts=parts,
            signs=made_from.signs,
            ways=made_from.ways,
            words=body.words,
            target_bpm=body.target_bpm,
            days=body.days,
            good_repeats=body.good_repeats,
            due_on=body.due_on,
            count=" ".join(word.word for word in counted),
            names=words.names,
            values=words.values,
            one_page=body.one_page,
            paper=body.paper,
        )
    )
    return send_file(io.BytesIO(pdf), mimetype="application/pdf", download_name="sheet.pdf", max_age=0)


@api.post("/export", responses={422: Problem})
@teacher_only
def export(body: ExportQuestion) -> Any:
    """One instrument's line as a file for other programs."""
    document = body.recipe.model_dump(mode="json")
    try:
        score = score_for(document, body.instrument, ease=body.ease)
    except UnplayableError as error:
        raise ProblemError(422, f"{str(error)[:1].upper()}{str(error)[1:]}.") from error
    write, kind, suffix = _KINDS[body.kind]
    return send_file(
        io.BytesIO(write(score)),
        mimetype=kind,
        download_name=f"{body.instrument}.{suffix}",
        as_attachment=True,
        max_age=0,
    )
