"""Pictures of strangers, redrawn in a limited child."""

from __future__ import annotations

from pathlib import Path

from attentive_owl.formats.confined import read_confined


class PictureFileError(Exception):
    """The file is no picture that we take; the message is one sentence for whoever sent it."""


def redraw_picture(source: Path, target: Path) -> None:
    """Writes the picture anew as a JPEG of 1280 pixels at most, upright, without anything that the camera noted beside it. Raises
    PictureFileError."""
    try:
        found = read_confined("attentive_owl.formats.picture_child", [str(source), str(target)], target.parent)
    except TimeoutError as error:
        raise PictureFileError("This picture took too long to read.") from error
    if "width" not in found:
        raise PictureFileError(found.get("error", "This file could not be read as a picture."))
