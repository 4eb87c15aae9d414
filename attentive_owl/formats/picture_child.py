"""Runs as a process of its own: reads one picture with Pillow under limits, writes it anew as a JPEG with nothing in it but the
picture (a camera notes the place and the hour), prints one line of JSON."""

from __future__ import annotations

import sys
from typing import Any

from attentive_owl.formats.confined import UnusableError, answer

_MEMORY_BYTES = 1024**3
_CPU_S = 20
_MOST_PIXELS = 60_000_000
_LONGEST_SIDE = 1280
_KINDS = ("JPEG", "PNG", "WEBP")


def _redraw(source: str, target: str) -> dict[str, Any]:
    from PIL import Image, ImageOps

    Image.MAX_IMAGE_PIXELS = _MOST_PIXELS
    with Image.open(source, formats=_KINDS) as picture:
        if picture.width * picture.height > _MOST_PIXELS:
            raise UnusableError("This picture is too large; take it with fewer pixels.")
        upright = ImageOps.exif_transpose(picture).convert("RGB")
    upright.thumbnail((_LONGEST_SIDE, _LONGEST_SIDE))
    upright.save(target, "JPEG", quality=85)
    return {"width": upright.width, "height": upright.height}


if __name__ == "__main__":
    _source, _target = sys.argv[1:3]
    raise SystemExit(
        answer(
            lambda: _redraw(_source, _target),
            _MEMORY_BYTES,
            _CPU_S,
            "This file could not be read as a picture (JPEG, PNG or WebP).",
        )
    )
