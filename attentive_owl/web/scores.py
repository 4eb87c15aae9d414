"""A score for a screen: engraved for a width, with the facts of its notes and the address of its sound."""

from __future__ import annotations

import base64
import json
import zlib
from collections.abc import Sequence
from typing import Any
from urllib.parse import urlencode

from attentive_owl.core.exercises import REST_WORD, Ease, Recipe, RecipeError, Score
from attentive_owl.core.instruments import Mark
from attentive_owl.core.playing import count_in, demonstration_onsets
from attentive_owl.core.theory import say
from attentive_owl.formats.engraving import engrave
from attentive_owl.store.exercises import document_from_recipe, recipe_from_document
from attentive_owl.web.schemas.scores import (
    CountWordOut,
    NoteMark,
    PlacedNote,
    RestOut,
    ScoreNoteOut,
    ScoreOut,
    SystemOut,
)
from attentive_owl.web.schemas.studio import StudioSettings

_STAFF_SCALES = ((700, 50), (480, 44), (0, 37))
"""Least width in pixels, per cent of the engraver's size: a narrow page takes a smaller staff, not one note a line."""
_LONGEST_RECIPE = 60_000
_WIDTH_STEP = 40
"""Widths are rounded down to these steps, so that few engravings serve all screens."""


def pack(recipe: dict[str, Any], tempo_bpm: float) -> str:
    """A recipe for an address: what differs from the defaults, as JSON, deflated, in URL-safe base 64."""
    plain = document_from_recipe(Recipe())
    own = {**document_from_recipe(recipe_from_document(recipe)), "tempo_bpm": tempo_bpm}
    differing = {key: value for key, value in own.items() if value != plain[key]}
    return base64.urlsafe_b64encode(zlib.compress(json.dumps(differing).encode(), 9)).decode().rstrip("=")


def unpack(text: str) -> dict[str, Any]:
    """Raises RecipeError for a text that no page of ours has made."""
    try:
        packed = base64.urlsafe_b64decode(text + "=" * (-len(text) % 4))
        document = json.loads(zlib.decompressobj().decompress(packed, _LONGEST_RECIPE))
    except (ValueError, zlib.error) as error:
        raise RecipeError("this is no address of a sound") from error
    if not isinstance(document, dict):
        raise RecipeError("this is no address of a sound")
    return document


def score_out(
    score: Score,
    recipe: dict[str, Any],
    width: int,
    words: StudioSettings,
    share: float = 1.0,
    hidden: bool = False,
    marks: Sequence[Mark] = (),
    ease: Ease = Ease.USUAL,
) -> ScoreOut:
    """`share` of the usual staff size, for pages that show several scores. `marks`: the tapes of the instrument. `ease`: of
    which line this is the score, so that the same is heard."""
    tapes = {mark.semitones: NoteMark(name=mark.name, colour=mark.colour, shade=mark.shade) for mark in marks}
    staff_scale = next(scale for least, scale in _STAFF_SCALES if width >= least)
    made_from = recipe_from_document(recipe)
    counted, count_beats = count_in(score, words.count_in, words.count_in_six)
    systems = engrave(
        score, max(width // _WIDTH_STEP * _WIDTH_STEP, 240), round(staff_scale * share), made_from.signs, words.names
    )
    question = {"recipe": pack(recipe, score.tempo_bpm), "instrument": score.instrument_key}
    if ease is not Ease.USUAL:
        question["ease"] = ease.value
    return ScoreOut(
        instrument=score.instrument_key,
        instrument_name=score.instrument.name,
        title=score.title,
        tempo_bpm=score.tempo_bpm,
        measure_beats=float(score.meter.measure_beats),
        pulse_beats=float(score.meter.pulse_beats),
        strings=[string.name for string in score.instrument.strings],
        hidden=hidden,
        notes=[
            ScoreNoteOut(
                index=note.index,
                name=note.pitch.name,
                spoken=say(note.pitch, words.names, score.key),
                midi=note.midi,
                measure=note.measure,
                string=note.placement.string if note.placement else None,
                finger=note.placement.finger if note.placement else None,
                position=note.placement.position if note.placement else None,
                semitones=note.placement.semitones if note.placement else None,
                mark=tapes.get(note.placement.semitones) if note.placement else None,
                start_beats=float(note.start_beats),
                duration_beats=float(note.duration_beats),
                cue=note.cue,
            )
            for note in score.notes
        ],
        rests=[
            RestOut(start_beats=float(rest.start_beats), duration_beats=float(rest.duration_beats))
            for rest in score.rests
        ],
        rest_word=REST_WORD,
        systems=[
            SystemOut(
                svg=system.svg,
                width=system.width,
                height=system.height,
                notes=[PlacedNote(index=n.index, x=n.x, y=n.y) for n in system.notes],
            )
            for system in systems
        ],
        count_in=[CountWordOut(at_beats=float(w.at_beats), word=w.word, beat=w.beat) for w in counted],
        count_in_beats=float(count_beats),
        ways=list(made_from.ways),
        calls=made_from.family == "call",
        demonstration_url=f"/api/demonstration?{urlencode(question)}",
        demonstration_onsets=list(demonstration_onsets(score)),
    )
