"""Making exercises: the catalogue of choices, the living score and what is to be said of it, the sound, a line from a file."""

from __future__ import annotations

import hashlib
import io
import tempfile
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from flask import send_file
from sqlalchemy import select
from sqlalchemy.orm import Session

from attentive_owl.core.bowing import plan_bow
from attentive_owl.core.exercises import (
    FAMILIES,
    HIGHEST_TEMPO_BPM,
    LOWEST_TEMPO_BPM,
    METERS,
    PATTERNS,
    STRING_NAMES,
    Bowing,
    BowPart,
    Direction,
    Dynamic,
    Fingers,
    Insight,
    Recipe,
    Score,
    Sign,
    Way,
    frames_for,
    look_at,
    neighbours,
    possible_starts,
    same_fingers,
    strings_over,
    telling,
    title,
    what_is_new,
)
from attentive_owl.core.instruments import INSTRUMENTS, TAPE_SHADES, UnplayableError, checklist, possible_places
from attentive_owl.core.judging import LEVELS
from attentive_owl.core.planning import FIRST_RUNG_SHARE
from attentive_owl.core.playing import demonstrate
from attentive_owl.core.theory import NoteNames, ScaleForm
from attentive_owl.formats.audio import flac_bytes
from attentive_owl.formats.musicxml import ScoreFileError
from attentive_owl.formats.own_line import read_strangers_line
from attentive_owl.store.exercises import eases_of, features_of, recipe_from_document, score_for
from attentive_owl.store.models import Assignment, AssignmentPupil, Exercise, Pupil
from attentive_owl.web.access import own_studio, services, signed_in, teacher_only
from attentive_owl.web.areas import Area
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.recipes import recipe_out
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import TONICS, Problem
from attentive_owl.web.schemas.recipes import (
    Catalogue,
    FamilyOut,
    HandPlaceOut,
    ImportedLine,
    InstrumentOut,
    LevelOut,
    LineUpload,
    OpenStringOut,
    PatternOut,
    SizeOut,
)
from attentive_owl.web.schemas.scores import (
    STAFF_SHARES,
    DemonstrationQuestion,
    FrameOut,
    HalfStepOut,
    InsightOut,
    NeighboursOut,
    NewForOut,
    PartOut,
    PlaceOut,
    PreviewOut,
    PreviewQuestion,
    StrokeOut,
    ToldOut,
)
from attentive_owl.web.scores import score_out, unpack
from attentive_owl.web.studio import marks_for, studio_settings

api = Area("workshop", __name__, 401)
_DEMONSTRATION_VERSION = "3"
_one_demonstration = threading.Lock()
"""A class opens the same line at one moment: of what one process was asked for, the first is rendered and the others wait for it."""
_MOST_EARLIER = 40
_LONGEST_SUFFIX = 10
_MOST_PUPILS = 200


@dataclass(frozen=True)
class _Standing:
    """One pupil, for what is new in an exercise."""

    name: str
    known: tuple[str, ...]
    recipes: list[dict[str, Any]]


@api.get("/catalogue", responses={200: Catalogue})
@signed_in
def catalogue() -> Any:
    return reply(
        Catalogue(
            families=[
                FamilyOut(
                    key=f.key,
                    name=f.name,
                    group=f.group,  # type: ignore[arg-type]
                    about=f.about,
                    uses=sorted(f.uses),
                    hidden=f.hidden,
                )
                for f in FAMILIES.values()
            ],
            tonics=list(TONICS),
            forms=list(ScaleForm),
            directions=list(Direction),
            bowings=list(Bowing),
            meters=list(METERS),
            bow_parts=list(BowPart),
            dynamics=list(Dynamic),
            fingers=list(Fingers),
            ways=list(Way),
            signs=list(Sign),
            tape_shades=TAPE_SHADES,
            strings=list(STRING_NAMES),
            patterns=[
                PatternOut(
                    key=p.key,
                    name=p.name,
                    cue=list(p.cue),
                    values=[float(v) for v in p.values],
                    meters=list(p.meters),
                )
                for p in PATTERNS.values()
            ],
            instruments=[
                InstrumentOut(
                    key=entry.key,
                    name=entry.name,
                    sizes=[SizeOut(name=size, string_length_mm=length) for size, length in entry.sizes.items()],
                    strings=[OpenStringOut(name=own.name, midi=own.pitch.midi) for own in entry.strings],
                    frames=list(frames_for(entry)),
                    checklist=list(checklist(entry)),
                    hand=[
                        HandPlaceOut(semitones=at, finger=finger) for at, finger in entry.first_position.under_the_hand
                    ],
                )
                for entry in INSTRUMENTS.values()
            ],
            levels=[LevelOut.model_validate(level, from_attributes=True) for level in LEVELS.values()],
            lowest_tempo_bpm=LOWEST_TEMPO_BPM,
            highest_tempo_bpm=HIGHEST_TEMPO_BPM,
            first_rung_share=FIRST_RUNG_SHARE,
            first_recipe=recipe_out(Recipe()),
        )
    )


@api.post("/preview", responses={200: PreviewOut, 422: Problem})
@teacher_only
def preview(body: PreviewQuestion) -> Any:
    """The recipe on one instrument, engraved, with what a teacher would say of it; nothing is kept."""
    document = body.recipe.model_dump(mode="json")
    name = title(recipe_from_document(document))
    try:
        score = score_for(document, body.instrument, ease=body.ease)
    except UnplayableError as error:
        return reply(PreviewOut(title=name, part=None, left_out=f"{INSTRUMENTS[body.instrument].name}: {error}."))
    with own_studio() as session:
        earlier = list(
            session.scalars(
                select(Exercise.recipe)
                .where(Exercise.id.in_(select(Assignment.exercise_id)))
                .order_by(Exercise.created_at.desc())
                .limit(_MOST_EARLIER)
            )
        )
        pupils = _standings(session, body.instrument)
    words = studio_settings()
    marks = marks_for(words, body.instrument)
    part = PartOut(
        score=score_out(
            score, document, body.width, words, 0.84 * STAFF_SHARES[body.size], marks=marks, ease=body.ease
        ),
        insight=_insight(score, document, earlier, pupils, words.names),
    )
    return reply(PreviewOut(title=name, part=part, left_out=None))


def _standings(session: Session, instrument_key: str) -> list[_Standing]:
    """What each pupil with this instrument was set and knows."""
    standings = {
        pupil.id: _Standing(pupil.name, tuple(pupil.known), [])
        for pupil in session.scalars(
            select(Pupil).where(Pupil.instrument == instrument_key).order_by(Pupil.name).limit(_MOST_PUPILS)
        )
    }
    rows = session.execute(
        select(AssignmentPupil.pupil_id, Exercise.recipe)
        .join(Assignment, Assignment.id == AssignmentPupil.assignment_id)
        .join(Exercise, Exercise.id == Assignment.exercise_id)
        .where(AssignmentPupil.pupil_id.in_(standings))
    )
    for pupil_id, recipe in rows:
        standings[pupil_id].recipes.append(recipe)
    return list(standings.values())


def _features(recipes: list[dict[str, Any]], but: dict[str, Any], instrument_key: str) -> list[frozenset[str]]:
    """What each recipe asks for, the one that is being looked at left out."""
    return [features_of(recipe, instrument_key) for recipe in recipes if recipe != but]


def _new_for(
    features: frozenset[str], score: Score, document: dict[str, Any], pupils: list[_Standing]
) -> list[NewForOut]:
    groups: dict[tuple[str, ...], list[str]] = {}
    for pupil in pupils:
        earlier = _features(pupil.recipes, document, score.instrument_key)
        groups.setdefault(what_is_new(features, earlier, pupil.known), []).append(pupil.name)
    return [NewForOut(pupils=names, new=list(new)) for new, names in groups.items()]


def _insight(
    score: Score,
    document: dict[str, Any],
    earlier: list[dict[str, Any]],
    pupils: list[_Standing],
    names: NoteNames,
) -> InsightOut:
    found = look_at(score, names)
    bow = plan_bow(score)
    places = {note.midi: possible_places(score.instrument, note.pitch) for note in score.notes}
    return InsightOut(
        signature=found.signature,
        occurring=list(found.occurring),
        half_steps=[HalfStepOut(low=h.low, high=h.high, words=h.words) for h in found.half_steps],
        frames=[FrameOut(string=f.string, words=f.words) for f in found.frames],
        frame_changes=list(found.frame_changes),
        crossings=found.crossings,
        shifts=list(found.shifts),
        difficulty=found.difficulty,
        bow=bow.words,
        strokes=[
            StrokeOut(notes=list(s.notes), direction=s.direction, start=s.start, end=s.end)  # type: ignore[arg-type]
            for s in bow.strokes
        ],
        neighbours=[
            NeighboursOut(below=below, above=above)
            for below, above in (neighbours(score, note.index, names) for note in score.notes)
        ],
        places=[
            [PlaceOut(string=p.string, finger=p.finger, position=p.position) for p in places[note.midi]]
            for note in score.notes
        ],
        new_for=_new_for(found.features, score, document, pupils),
        telling=[ToldOut(about=about, words=words) for about, words in _telling(score, found, bow.words, earlier)],
        starts=list(possible_starts(recipe_from_document(document), score.instrument_key)),
        eases=eases_of(document, score.instrument_key),
        new=list(what_is_new(found.features, _features(earlier, document, score.instrument_key))),
    )


def _telling(score: Score, found: Insight, bow: str, earlier: list[dict[str, Any]]) -> Iterator[tuple[str, str]]:
    yield from telling(score, found, bow)
    for known in earlier:
        try:
            where = strings_over(same_fingers(score, score_for(known, score.instrument_key)))
        except UnplayableError:
            continue
        if where:
            yield "Fingers", f"the same as in {title(recipe_from_document(known))}, {where}"
            return


@api.post("/line", responses={200: ImportedLine, 422: Problem})
@teacher_only
def line_from_file(form: LineUpload) -> Any:
    """A teacher's own line from a MusicXML, .mxl or MIDI file."""
    name = Path(form.file.filename or "line").name
    with tempfile.TemporaryDirectory() as folder:
        # A suffix that no file has is none of ours either; it must not become a name that no folder takes.
        path = Path(folder, f"line{Path(name).suffix.lower()[:_LONGEST_SUFFIX]}")
        form.file.save(path)
        try:
            found = read_strangers_line(path, name)
        except ScoreFileError as error:
            raise ProblemError(422, str(error)) from error
    return reply(
        ImportedLine(
            title=found.title,
            tonic=found.tonic,
            form=found.form,
            meter=found.meter,
            tempo_bpm=found.tempo_bpm,
            line=[{"name": n.name, "beats": n.beats, "slurred": n.slurred} for n in found.line],  # type: ignore[misc]
        )
    )


@api.get("/demonstration", responses={422: Problem})
@signed_in
def demonstration(query: DemonstrationQuestion) -> Any:
    """The exercise as it should sound, after a counted measure: FLAC. Rendered once, then kept."""
    score = score_for(unpack(query.recipe), query.instrument, ease=query.ease)
    name = hashlib.sha256(f"{_DEMONSTRATION_VERSION}:{query.model_dump_json()}".encode()).hexdigest()
    audio = services().audio
    if not audio.exists(name, "demonstration"):
        with _one_demonstration:
            if not audio.exists(name, "demonstration"):
                sound = demonstrate(score, company=query.company, with_line=query.line)
                audio.put_bytes(flac_bytes(sound.samples, sound.sample_rate), name, "demonstration")
    data = audio.read(name, "demonstration")
    return send_file(io.BytesIO(data), mimetype="audio/flac", conditional=True, etag=name, max_age=86400)
