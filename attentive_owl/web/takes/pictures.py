"""A picture of the bow hold that goes with a take: only where the teacher asks for it and an adult has said yes."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path
from typing import Any

from flask import send_file

from attentive_owl.formats.limits import MAX_PICTURE_BYTES
from attentive_owl.formats.picture import PictureFileError, redraw_picture
from attentive_owl.store.audio import file_sha256
from attentive_owl.web.access import own_studio, pupil_only, services, signed_in
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Done, Problem
from attentive_owl.web.schemas.practice import PictureUpload
from attentive_owl.web.takes.blueprint import api
from attentive_owl.web.takes.visible import visible_take


@api.post("/takes/<uuid:id>/picture", responses={200: Done, 403: Problem, 422: Problem})
@pupil_only
def send_picture(path: ById, form: PictureUpload) -> Any:
    """JPEG, PNG or WebP; a second one takes the place of the first."""
    with own_studio() as session:
        take = visible_take(session, path.id)
        if not (take.assignment.wants_picture and take.pupil.pictures_agreed):
            raise ProblemError(403, "A picture is sent only where your teacher asks for it and an adult has said yes.")
    with tempfile.TemporaryDirectory() as folder:
        original, redrawn = Path(folder, "original"), Path(folder, "picture.jpg")
        form.picture.save(original)
        if original.stat().st_size > MAX_PICTURE_BYTES:
            raise ProblemError(422, f"A picture can be {MAX_PICTURE_BYTES // 2**20} MB at most.")
        try:
            redraw_picture(original, redrawn)
        except PictureFileError as error:
            raise ProblemError(422, str(error)) from error
        # Only what was redrawn is kept: the camera's own notes are not.
        sha256 = file_sha256(redrawn)
        services().audio.put(redrawn, sha256, "picture")
    with own_studio() as session:
        visible_take(session, path.id).picture_sha256 = sha256
    return reply(Done())


@api.delete("/takes/<uuid:id>/picture", responses={200: Done})
@pupil_only
def take_picture_away(path: ById) -> Any:
    with own_studio() as session:
        visible_take(session, path.id).picture_sha256 = None
    return reply(Done())


@api.get("/takes/<uuid:id>/picture")
@signed_in
def picture(path: ById) -> Any:
    with own_studio() as session:
        take = visible_take(session, path.id)
        # A yes that was taken back hides what was sent before.
        sha256 = take.picture_sha256 if take.pupil.pictures_agreed else None
    if sha256 is None:
        raise not_found()
    return send_file(io.BytesIO(services().audio.read(sha256, "picture")), mimetype="image/jpeg", max_age=0)
