"""Fills an empty database with the scenario, once. Takes are played by the simulated pupil and checked for real."""

from __future__ import annotations

import tempfile
import uuid
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from functools import partial
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from sqlalchemy import Engine, select, text
from sqlalchemy.orm import Session

from attentive_owl.core.exercises import Recipe, title
from attentive_owl.core.instruments import instrument
from attentive_owl.core.planning import first_rung
from attentive_owl.core.playing import perform_score, place_in_room, render
from attentive_owl.demo import scenario
from attentive_owl.formats.audio import flac_bytes, read_flac
from attentive_owl.jobs.checking import check_one
from attentive_owl.jobs.upkeep import remind
from attentive_owl.settings import Settings
from attentive_owl.store.audio import AudioStore, file_sha256
from attentive_owl.store.exercises import document_from_recipe, score_for, step_key
from attentive_owl.store.models import (
    Assignment,
    ClassGroup,
    Exercise,
    LearningPath,
    Lesson,
    Mark,
    PassedStep,
    Pupil,
    Report,
    SchoolBreak,
    Studio,
    Take,
    Teacher,
    WeekSheet,
)
from attentive_owl.store.passphrases import hash_secret, passphrase_key
from attentive_owl.store.paths import shipped_paths
from attentive_owl.store.queue import defer_check
from attentive_owl.store.session import make_engine, open_session

_RATE = 44100
_WHY = "the demo makes the studio"
_LEFT_FOR_THE_WORKER = 3
_LONG_AGO = -4
"""Days from today, from which on back the teacher has marked everything."""


@dataclass(frozen=True)
class _Planned:
    pupil: scenario.DemoPupil
    assignment: scenario.DemoAssignment
    day: int
    week: int
    seed: int
    bpm: float
    handed_in: bool


def load_demo(settings: Settings) -> bool:
    """Returns False, and does nothing, where the database has a studio already."""
    engine = make_engine(settings.database_url)
    audio = AudioStore(settings.audio_url, settings.store_seen)
    with open_session(engine, _WHY) as session:
        session.execute(text("SELECT pg_advisory_xact_lock(7390413)"))
        if session.scalar(select(Studio.id).limit(1)) is not None:
            return False
        plans = _plan()
        sounds = _play(plans)
        studio = Studio(name=scenario.STUDIO, demo=True)
        session.add(studio)
        session.flush()
        teacher, assistant, pupils = _people(settings, studio)
        session.add_all([teacher, assistant, *pupils.values()])
        session.flush()
        _desk(session, studio, teacher, pupils)
        assignments = _assignments(studio, pupils)
        session.add_all(assignments.values())
        session.flush()
        takes = []
        for number, (plan, sound) in enumerate(zip(plans, sounds, strict=True)):
            take = _take(audio, sound, plan, pupils[plan.pupil.name], assignments[id(plan.assignment)], number)
            session.add(take)
            takes.append((plan, take))
        session.flush()
        for _, take in takes[-_LEFT_FOR_THE_WORKER:]:
            defer_check(session, take.id)
        teacher_id, studio_id = teacher.id, studio.id
    _check(settings, [take.id for _, take in takes[:-_LEFT_FOR_THE_WORKER]])
    _pass(engine, studio_id, teacher_id)
    remind(engine)
    _mark(engine, [(plan, take.id) for plan, take in takes], teacher_id, studio_id)
    engine.dispose()
    return True


def _plan() -> list[_Planned]:
    plans = []
    for order, assignment in enumerate(scenario.ASSIGNMENTS):
        for place, pupil in enumerate(scenario.PUPILS):
            if not _is_for(assignment, pupil):
                continue
            for number, day in enumerate(assignment.take_days):
                # Not everybody practises every time.
                if (place + order + number) % 5 == 4 and pupil.gets_better:
                    continue
                if pupil.quiet_since is not None and day >= pupil.quiet_since:
                    continue
                recent = day > _LONG_AGO
                plans.append(
                    _Planned(
                        pupil,
                        assignment,
                        day,
                        assignment.week,
                        100 * order + 10 * place + number,
                        assignment.take_bpms[number] if assignment.take_bpms else assignment.target_bpm,
                        # Of this week's goes the last is chosen for the teacher; what was long ago was all handed in.
                        not recent or number == len(assignment.take_days) - 1,
                    )
                )
    return sorted(plans, key=lambda plan: (plan.day, plan.pupil.name))


def _is_for(assignment: scenario.DemoAssignment, pupil: scenario.DemoPupil) -> bool:
    return pupil.group in assignment.groups and (assignment.pupils is None or pupil.instrument in assignment.pupils)


def _play(plans: list[_Planned]) -> list[bytes]:
    with ProcessPoolExecutor(max_workers=2, mp_context=get_context("spawn")) as pool:
        return list(pool.map(_play_one, plans))


def _play_one(plan: _Planned) -> bytes:
    document = document_from_recipe(plan.assignment.recipe)
    score = score_for(document, plan.pupil.instrument, plan.bpm)
    habits = scenario.habits_in_week(plan.pupil, plan.week, plan.assignment.recipe)
    dry, _ = render(perform_score(score, habits, plan.seed), plan.pupil.instrument, _RATE, plan.seed)
    return flac_bytes(place_in_room(dry, _RATE, plan.pupil.room, plan.seed), _RATE)


def _people(settings: Settings, studio: Studio) -> tuple[Teacher, Teacher, dict[str, Pupil]]:
    teacher = Teacher(
        studio_id=studio.id,
        email=scenario.TEACHER_EMAIL,
        name=scenario.TEACHER_NAME,
        password_hash=hash_secret(scenario.TEACHER_PASSWORD),
        rank="owner",
    )
    assistant = Teacher(
        studio_id=studio.id,
        email=scenario.ASSISTANT_EMAIL,
        name=scenario.ASSISTANT_NAME,
        password_hash=hash_secret(scenario.ASSISTANT_PASSWORD),
        rank="assistant",
    )
    groups = {
        own: ClassGroup(id=uuid.uuid4(), studio_id=studio.id, name=own[0], code=own[1])
        for own in (scenario.FIRST, scenario.SECOND)
    }
    pupils = {
        own.name: Pupil(
            studio_id=studio.id,
            group=groups[own.group],
            also_in=[groups[own.also_in]] if own.also_in else [],
            name=own.name,
            instrument=own.instrument,
            size=own.size,
            string_length_mm=instrument(own.instrument).sizes[own.size],
            phrase_key=passphrase_key(settings.secret_key, groups[own.group].id, own.passphrase),
            phrase_hash=hash_secret(own.passphrase),
            consent_by=scenario.CONSENT_BY,
            consent_at=datetime.now(UTC) - timedelta(days=90),
            goal=scenario.GOALS.get(own.name, ""),
        )
        for own in scenario.PUPILS
    }
    return teacher, assistant, pupils


def _assignments(studio: Studio, pupils: dict[str, Pupil]) -> dict[int, Assignment]:
    out = {}
    for own in scenario.ASSIGNMENTS:
        exercise = Exercise(studio_id=studio.id, title=title(own.recipe), recipe=document_from_recipe(own.recipe))
        out[id(own)] = Assignment(
            studio_id=studio.id,
            exercise=exercise,
            due_on=date.today() + timedelta(days=own.due_in_days),
            target_bpm=own.target_bpm,
            good_repeats=own.good_repeats,
            ladder_from_bpm=own.ladder_from_bpm,
            level="settling",
            note=own.note,
            created_at=datetime.now(UTC) + timedelta(days=own.set_in_days),
            pupils=[pupils[one.name] for one in scenario.PUPILS if _is_for(own, one)],
        )
    return out


def _desk(session: Session, studio: Studio, teacher: Teacher, pupils: dict[str, Pupil]) -> None:
    """Calendar, paths and sheets."""
    today = date.today()
    groups = {own.group.name: own.group for own in pupils.values()}
    for group, weekday, starts, minutes, place in scenario.LESSONS:
        first = today - timedelta(days=84 + (today.weekday() - weekday) % 7)
        session.add(
            Lesson(
                studio_id=studio.id,
                class_id=groups[group[0]].id,
                day=first,
                starts=time(*starts),
                minutes=minutes,
                until=today + timedelta(days=112),
                place=place,
            )
        )
    name, begin, end = scenario.BREAK
    session.add(
        SchoolBreak(
            studio_id=studio.id,
            name=name,
            first_day=today + timedelta(days=begin),
            last_day=today + timedelta(days=end),
        )
    )
    paths = shipped_paths(studio.id)
    session.add_all(paths)
    session.flush()
    own_path = next(path for path in paths if path.name == scenario.PATH)
    for own in pupils.values():
        own.path_id = own_path.id
    for kind, (called, recipes) in (("draft", scenario.DRAFT), ("template", scenario.TEMPLATE)):
        session.add(
            WeekSheet(
                studio_id=studio.id,
                teacher_id=teacher.id,
                name=called,
                kind=kind,
                due_on=today + timedelta(days=7) if kind == "draft" else None,
                items=[_sheet_item(recipe) for recipe in recipes],
            )
        )


def _sheet_item(recipe: Recipe) -> dict[str, Any]:
    return {
        "recipe": document_from_recipe(recipe),
        "target_bpm": recipe.tempo_bpm,
        "good_repeats": 5,
        "ladder_from_bpm": first_rung(recipe.tempo_bpm),
        "audience": {"class_ids": [], "instruments": [], "pupil_ids": []},
    }


def _check(settings: Settings, ids: list[uuid.UUID]) -> None:
    """On two processors at once: each process with its own way to the database."""
    with ProcessPoolExecutor(max_workers=2, mp_context=get_context("spawn")) as pool:
        list(pool.map(partial(_check_some, settings), (ids[0::2], ids[1::2])))


def _check_some(settings: Settings, ids: list[uuid.UUID]) -> None:
    engine, audio = make_engine(settings.database_url, pool_size=2), AudioStore(settings.audio_url, settings.store_seen)
    for own in ids:
        check_one(engine, audio, own)
    engine.dispose()


def _pass(engine: Engine, studio_id: uuid.UUID, teacher_id: uuid.UUID) -> None:
    """The first steps of the path are passed, and lie behind."""
    with open_session(engine, _WHY) as session:
        path = session.scalars(
            select(LearningPath).where(LearningPath.studio_id == studio_id, LearningPath.name == scenario.PATH)
        ).one()
        by_name = {own.name: own for own in session.scalars(select(Pupil).where(Pupil.studio_id == studio_id))}
        for own in scenario.PUPILS:
            pupil = by_name[own.name]
            pupil.path_step = own.passed
            for number, step in enumerate(path.steps[: own.passed]):
                session.add(
                    PassedStep(
                        studio_id=studio_id,
                        pupil_id=pupil.id,
                        teacher_id=teacher_id,
                        key=step_key(step["recipe"]),
                        title=step["title"],
                        recipe=step["recipe"],
                        rubric={"Bow hold": "yes" if number else "nearly", "Straight bow": "yes"},
                        created_at=datetime.now(UTC) - timedelta(days=max(72 - 13 * number, 6)),
                    )
                )


def _take(audio: AudioStore, sound: bytes, plan: _Planned, pupil: Pupil, assignment: Assignment, number: int) -> Take:
    with tempfile.NamedTemporaryFile(suffix=".flac") as handle:
        handle.write(sound)
        handle.flush()
        path = Path(handle.name)
        sha256 = file_sha256(path)
        # One channel of FLAC already: it serves as its own playback copy.
        audio.put(path, sha256, "original")
        audio.put(path, sha256, "playback")
    day = datetime.now(UTC).replace(hour=16, minute=10, second=0, microsecond=0) + timedelta(days=plan.day)
    samples, rate = read_flac(sound)
    recorded_at = day + timedelta(minutes=7 * (number % 12))
    recent = plan.day > _LONG_AGO
    return Take(
        studio_id=assignment.studio_id,
        pupil_id=pupil.id,
        assignment_id=assignment.id,
        client_key=f"demo-take-{number:04d}",
        sha256=sha256,
        file_name="take.flac",
        size_bytes=len(sound),
        duration_s=len(samples) / rate,
        recorded_at=recorded_at,
        bpm=plan.bpm,
        handed_in_at=recorded_at if plan.handed_in else None,
        felt=scenario.FELT[number % len(scenario.FELT)] if recent else None,
        help_words=scenario.HELP.get(plan.pupil.name) if recent and plan.handed_in else None,
    )


def _mark(engine: Engine, takes: list[tuple[_Planned, uuid.UUID]], teacher_id: uuid.UUID, studio_id: uuid.UUID) -> None:
    """The teacher has marked what is older than three days, by what the report says."""
    with open_session(engine, _WHY) as session:
        for number, (plan, take_id) in enumerate(takes):
            if plan.day > _LONG_AGO:
                continue
            report = session.scalar(select(Report).where(Report.take_id == take_id))
            verdict = _verdict(report, plan)
            remarks = scenario.REMARKS[verdict]
            given = datetime.now(UTC) + timedelta(days=plan.day + 1)
            session.add(
                Mark(
                    studio_id=studio_id,
                    take_id=take_id,
                    teacher_id=teacher_id,
                    verdict=verdict,
                    remark=remarks[number % len(remarks)],
                    created_at=given,
                )
            )


def _verdict(report: Report | None, plan: _Planned) -> str:
    if report is None or not report.document["accepted"]:
        return "once_more"
    judgement = report.document["judgement"]
    if judgement["pitch"]["word"] == "on the way":
        return "come_and_see_me" if plan.week == 0 else "once_more"
    return "accepted" if report.document["good_go"]["good"] else "once_more"
