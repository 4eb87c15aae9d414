"""Everything of one pupil as a zip that a person can read: the record on paper, results as a table, what was said, and the recordings."""

from __future__ import annotations

import re
import tempfile
import zipfile
from collections.abc import Iterator
from typing import Any

from flask import send_file
from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from attentive_owl.core.judging import Report
from attentive_owl.formats.paper.record import pupil_records_pdf
from attentive_owl.formats.results_csv import write_csv
from attentive_owl.store.models import Pupil, Take
from attentive_owl.web.access import own_row, own_studio, people_only, services
from attentive_owl.web.areas import Area
from attentive_owl.web.clock import StudioClock, studio_clock
from attentive_owl.web.exports import RESULT_HEADS, records_of, result_row
from attentive_owl.web.schemas.common import ById
from attentive_owl.web.summaries import summaries
from attentive_owl.web.takes.visible import judged, sound_is_gone

api = Area("one_pupil", __name__, 401, 404, tag="exports")
_ABOUT = """Everything that Attentive Owl keeps of {name}.

about.txt       what is written down about the pupil
record.pdf      the way so far, on paper
results.csv     every recording, and what was measured in it
what was said   of each recording: the advice, the teacher's word, and the pupil's own question
recordings      as they were played (FLAC)
"""


@api.get("/pupils/<uuid:id>/archive.zip")
@people_only
def everything(path: ById) -> Any:
    """For an adult who asks what is kept of a child, and for a pupil who goes to another teacher."""
    clock = studio_clock()
    out = tempfile.TemporaryFile()  # noqa: SIM115 - it is sent after this function, and gone when it is closed
    with own_studio() as session, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        pupil = own_row(session, Pupil, path.id)
        package.writestr("read me.txt", _ABOUT.format(name=pupil.name))
        package.writestr("about.txt", "\n".join(_about(pupil, clock)))
        package.writestr("record.pdf", pupil_records_pdf(records_of(session, [pupil], clock)))
        rows = summaries(session, _takes(pupil))
        package.writestr("results.csv", write_csv(RESULT_HEADS, [result_row(own, clock) for own in rows]))
        for take in session.scalars(_takes(pupil)):
            name = _file_name(take, clock)
            package.writestr(f"what was said/{name}.txt", "\n".join(_said(session, take)))
            if not sound_is_gone(take) and services().audio.exists(take.sha256, "playback"):
                with package.open(zipfile.ZipInfo(f"recordings/{name}.flac"), "w") as sound:
                    sound.write(services().audio.read(take.sha256, "playback"))
    out.seek(0)
    return send_file(out, mimetype="application/zip", download_name="pupil.zip", as_attachment=True, max_age=0)


def _takes(pupil: Pupil) -> Any:
    """The oldest first; also those that were never handed in: they are kept too."""
    return (
        select(Take)
        .where(Take.pupil_id == pupil.id)
        .options(joinedload(Take.assignment), joinedload(Take.pupil))
        .order_by(Take.recorded_at, Take.id)
    )


def _about(pupil: Pupil, clock: StudioClock) -> Iterator[str]:
    yield f"Name: {pupil.name}"
    yield f"Instrument: {pupil.instrument} {pupil.size}, string {pupil.string_length_mm:.0f} mm"
    yield f"Since: {clock.local(pupil.created_at):%d %B %Y}"
    if pupil.consent_at:
        yield f"May record: {pupil.consent_by} said so on {clock.local(pupil.consent_at):%d %B %Y}"
        yield f"Pictures of the bow hold: {'yes' if pupil.pictures_agreed else 'no'}"
    else:
        yield "May record: no adult has said so"
    if pupil.goal:
        yield f"Goal: {pupil.goal}"
    if pupil.remarks:
        yield f"\nRemarks of the teachers:\n{pupil.remarks}"


def _file_name(take: Take, clock: StudioClock) -> str:
    """Day, hour and exercise: no two are alike, and every system can keep them."""
    title = re.sub(r"[^\w ,-]+", " ", take.assignment.exercise.title)[:60].strip()
    return f"{clock.local(take.recorded_at):%Y-%m-%d %H.%M.%S} {title} {str(take.id)[:4]}"


def _said(session: Session, take: Take) -> Iterator[str]:
    yield take.assignment.exercise.title
    report: Report | None = judged(take)
    if report is not None and report.refusal:
        yield f"\nNot judged: {report.refusal.words}"
    if report is not None:
        yield from (f"\n{own.text}" for own in report.advice)
    if take.help_words:
        yield f"\nThe pupil asked: {take.help_words}"
    for mark in take.marks:
        yield f"\nThe teacher: {mark.verdict.replace('_', ' ')}. {mark.remark}".rstrip()
