"""Handing in: the sound and its row, committed together with the job that checks it."""

from __future__ import annotations

import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.exc import IntegrityError

from attentive_owl.formats.audio import AudioFileError, decode_to_flac
from attentive_owl.store.audio import file_sha256
from attentive_owl.store.models import Take
from attentive_owl.store.queue import defer_check
from attentive_owl.web.access import own_studio, pupil_only, services, visitor
from attentive_owl.web.assigning import own_assignment
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import Problem
from attentive_owl.web.schemas.takes import NewTake, TakeReceipt
from attentive_owl.web.takes.blueprint import api


@api.post("/takes", responses={201: TakeReceipt, 200: TakeReceipt, 413: Problem, 422: Problem})
@pupil_only
def hand_in(form: NewTake) -> Any:
    """One recording as multipart: the fields, and the sound as `sound`. The same client_key again is the same take.

    The answer comes after the take and its job are committed; its sha256 is of what was stored.
    """
    if not visitor().person.may_record:
        raise ProblemError(403, "An adult has to say yes before your first recording. Ask your teacher.")
    own_id = visitor().person.id
    with own_studio() as session:
        own_assignment(session, form.assignment_id)
        known = session.scalar(select(Take).where(Take.pupil_id == own_id, Take.client_key == form.client_key))
        if known is not None:
            return reply(TakeReceipt(id=known.id, sha256=known.sha256))
    with tempfile.TemporaryDirectory() as folder:
        original, playback = Path(folder, "original"), Path(folder, "playback.flac")
        form.sound.save(original)
        sha256 = file_sha256(original)
        if sha256 != form.sha256:
            raise ProblemError(422, "The recording was damaged on the way; please send it again.")
        try:
            decoded = decode_to_flac(original, playback, form.claimed_s)
        except AudioFileError as error:
            raise ProblemError(422, str(error)) from error
        size = original.stat().st_size
        # Files first, row after: a row never points at a file that is not there.
        services().audio.put(original, sha256, "original")
        services().audio.put(playback, sha256, "playback")
    take = Take(
        pupil_id=own_id,
        assignment_id=form.assignment_id,
        client_key=form.client_key,
        sha256=sha256,
        file_name=Path(form.sound.filename or "take").name[:120],
        size_bytes=size,
        duration_s=decoded.duration_s,
        recorded_at=_plausible(form.recorded_at),
    )
    try:
        with own_studio() as session:
            session.add(take)
            session.flush()
            defer_check(session, take.id)
    except IntegrityError:
        # The same take arrived twice at once; the other request won.
        with own_studio() as session:
            twin = session.scalar(select(Take).where(Take.pupil_id == own_id, Take.client_key == form.client_key))
            if twin is None:
                raise
            return reply(TakeReceipt(id=twin.id, sha256=twin.sha256))
    return reply(TakeReceipt(id=take.id, sha256=sha256), 201)


def _plausible(recorded_at: datetime | None) -> datetime:
    """A device's clock is believed within the last month (takes may wait for a network), never into the future."""
    now = datetime.now(UTC)
    if recorded_at is None or recorded_at.tzinfo is None or not now - timedelta(days=31) < recorded_at <= now:
        return now
    return recorded_at
