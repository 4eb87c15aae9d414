"""A pupil's own goes at one exercise: what they come to (ladder, pieces, the best one), and what the pupil says of each."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from attentive_owl.core.exercises import LOWEST_TEMPO_BPM
from attentive_owl.core.instruments import instrument, tuning_care
from attentive_owl.core.judging import answer_first_note, trouble_by_bar, walk_to_first_note
from attentive_owl.core.listening import hear_one_note, in_tune
from attentive_owl.core.planning import Played, bars_of, best_of, from_the_end, hardest_first
from attentive_owl.core.theory import say
from attentive_owl.store.exercises import line_as_set
from attentive_owl.store.levels import level_of
from attentive_owl.store.models import Assignment, Pupil, Take
from attentive_owl.store.tuning import open_strings_at
from attentive_owl.web.access import own_studio, pupil_only, signed_in, visitor
from attentive_owl.web.assigning import own_assignment
from attentive_owl.web.goes import LISTENED_TO, ladder_of, standing_on_ladder
from attentive_owl.web.problems import ProblemError, not_found
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import ById, Problem
from attentive_owl.web.schemas.practice import (
    Bars,
    FirstNoteReading,
    GoOut,
    LadderOut,
    Room,
    SpokenHelp,
    StepToNote,
    TakeSaid,
    TunedString,
)
from attentive_owl.web.schemas.tuning import MomentUpload
from attentive_owl.web.studio import checklist_for, studio_settings
from attentive_owl.web.summaries import TakeSummary, summaries
from attentive_owl.web.takes.blueprint import api
from attentive_owl.web.takes.sounds import keep_spoken, play
from attentive_owl.web.takes.visible import judged, sound_is_gone, visible_take
from attentive_owl.web.tuning import moment

_MOST_GOES = 400
"""With which the ladder and the best go are reckoned."""
_LISTED = 60
_LONGEST_HELP_S = 60.0


@api.get("/assignments/<uuid:id>/room", responses={200: Room})
@pupil_only
def room(path: ById) -> Any:
    settings = studio_settings()
    with own_studio() as session:
        assignment = own_assignment(session, path.id)
        pupil = session.get_one(Pupil, visitor().person.id)
        player = instrument(pupil.instrument)
        score = line_as_set(session, assignment, pupil).score
        own = list(reversed(_last_goes(session, assignment, pupil)))
        lines = [row for row in own if row.take.bars is None]
        bars = bars_of(note.measure for note in score.notes)
        return reply(
            Room(
                goes=[
                    _go_out(row)
                    for place, row in enumerate(reversed(own))
                    if place < _LISTED or row.handed_in or row.take.kept_at is not None
                ],
                best_id=_best(lines),
                target_bpm=assignment.target_bpm,
                mode=assignment.mode,  # type: ignore[arg-type]
                ladder=_ladder(lines, assignment),
                bars=len(bars),
                hardest=_bars(hardest_first(_trouble(session, lines), bars)),
                from_the_end=_bars(from_the_end(bars)),
                good_in_a_row=_good_in_a_row(lines),
                checklist=checklist_for(settings, player),
                tuning_care=tuning_care(player),
                tuned_today=[
                    TunedString(string=string, cents=cents, in_tune=in_tune(cents))
                    for string, cents in open_strings_at(session, pupil.id, datetime.now(UTC)).items()
                ],
                lowest_bpm=min(LOWEST_TEMPO_BPM, assignment.target_bpm),
                walk=[
                    StepToNote(spoken=say(pitch, settings.names, score.key), midi=pitch.midi)
                    for pitch in walk_to_first_note(score)
                ],
            )
        )


def _bars(pieces: tuple[tuple[int, int], ...]) -> list[Bars]:
    return [Bars(first=first, last=last) for first, last in pieces]


def _last_goes(session: Session, assignment: Assignment, pupil: Pupil) -> list[TakeSummary]:
    """The newest first, without those that were thrown away."""
    question = (
        select(Take)
        .where(Take.assignment_id == assignment.id, Take.pupil_id == pupil.id, Take.thrown_away_at.is_(None))
        .order_by(Take.recorded_at.desc(), Take.id)
        .limit(_MOST_GOES)
    )
    return summaries(session, question)


def _go_out(own: TakeSummary) -> GoOut:
    take = own.take
    return GoOut(
        id=take.id,
        recorded_at=take.recorded_at,
        duration_s=take.duration_s,
        state=take.state,  # type: ignore[arg-type]
        refusal=own.refusal,
        good=own.good,
        pitch_word=own.pitch_word,
        rhythm_word=own.rhythm_word,
        played_bpm=own.played_bpm,
        bpm=take.asked_bpm,
        bars=Bars.of(take.bars),
        handed_in=own.handed_in,
        kept=take.kept_at is not None,
        felt=take.felt,  # type: ignore[arg-type]
        asks_for_help=take.help_words is not None,
        verdict=own.mark.verdict if own.mark else None,  # type: ignore[arg-type]
    )


def _best(lines: list[TakeSummary]) -> uuid.UUID | None:
    best = best_of(
        [
            Played(
                str(row.take.id),
                row.take.state == "checked",
                row.good,
                row.take.asked_bpm,
                row.home_share,
            )
            for row in lines
        ]
    )
    handed_in = {str(row.take.id) for row in lines if row.handed_in}
    return uuid.UUID(best) if best and best not in handed_in else None


def _ladder(lines: list[TakeSummary], assignment: Assignment) -> LadderOut | None:
    ladder, standing = ladder_of(assignment), standing_on_ladder(lines, assignment)
    if ladder is None or standing is None:
        return None
    return LadderOut(
        rungs=list(ladder.rungs),
        clean_in_a_row=ladder.clean_in_a_row,
        bpm=standing.bpm,
        in_a_row=standing.in_a_row,
        offered_bpm=standing.offered_bpm,
        reached_bpm=standing.reached_bpm,
        done=standing.done,
    )


def _trouble(session: Session, lines: list[TakeSummary]) -> dict[int, float]:
    """Of the last go through the whole line that was measured."""
    last = next((row.take.id for row in reversed(lines) if row.take.state == "checked"), None)
    report = judged(visible_take(session, last)) if last else None
    return trouble_by_bar(report) if report else {}


def _good_in_a_row(lines: list[TakeSummary]) -> int:
    count = 0
    for row in reversed(lines):
        if row.take.state not in LISTENED_TO:
            continue
        if not row.good:
            break
        count += max(row.in_a_row, 1)
    return count


@api.patch("/takes/<uuid:id>", responses={200: GoOut, 409: Problem})
@pupil_only
def say_of_a_go(path: ById, body: TakeSaid) -> Any:
    """Handing in and taking back, throwing away and fetching back, keeping as a favourite, how it felt, asking for help. What the
    teacher has marked stays handed in, and what is handed in is not thrown away."""
    now = datetime.now(UTC)
    with own_studio() as session:
        take = session.scalar(
            select(Take)
            .where(Take.id == path.id, Take.pupil_id == visitor().person.id)
            .options(joinedload(Take.assignment))
            .with_for_update(of=Take)
        )
        if take is None:
            raise not_found()
        if body.handed_in is not None:
            if not body.handed_in and take.marks:
                raise ProblemError(409, "Your teacher has already answered this one, so it stays there.")
            if body.handed_in:
                _hand_in(take, now)
            else:
                # The question went with it, and comes back with it.
                take.handed_in_at = take.help_words = take.help_sha256 = None
        if body.thrown_away is not None:
            if body.thrown_away and take.handed_in_at is not None:
                raise ProblemError(409, "This one is with your teacher. Take it back first, then throw it away.")
            take.thrown_away_at = now if body.thrown_away else None
        if body.kept is not None:
            take.kept_at = now if body.kept else None
        if "felt" in body.model_fields_set:
            take.felt = body.felt
        if "help_words" in body.model_fields_set:
            _ask_for_help(take, body.help_words, now)
        session.flush()
        row = summaries(session, select(Take).where(Take.id == take.id))[0]
        return reply(_go_out(row))


def _ask_for_help(take: Take, words: str | None, now: datetime) -> None:
    """Whoever asks for help wants the teacher to hear it: it is handed in with the question."""
    take.help_words = words
    if words is None:
        take.help_sha256 = None
    else:
        _hand_in(take, now)


def _hand_in(take: Take, now: datetime) -> None:
    """What was thrown away is fetched back by it."""
    take.handed_in_at = take.handed_in_at or now
    take.thrown_away_at = None


@api.post("/takes/<uuid:id>/help", responses={200: GoOut, 422: Problem})
@pupil_only
def spoken_help(path: ById, form: SpokenHelp) -> Any:
    """The question for help, spoken: a minute at most."""
    if not visitor().person.may_record:
        raise ProblemError(403, "An adult has to say yes before anything is recorded. Write your question instead.")
    with own_studio() as session:
        visible_take(session, path.id)
    sha256 = keep_spoken(form.sound, _LONGEST_HELP_S)
    with own_studio() as session:
        take = visible_take(session, path.id)
        take.help_sha256 = sha256
        _ask_for_help(take, take.help_words or "", datetime.now(UTC))
        session.flush()
        row = summaries(session, select(Take).where(Take.id == take.id))[0]
        return reply(_go_out(row))


@api.get("/takes/<uuid:id>/help")
@signed_in
def hear_help(path: ById) -> Any:
    with own_studio() as session:
        take = visible_take(session, path.id)
        sha256 = None if sound_is_gone(take) else take.help_sha256
    if sha256 is None:
        raise not_found()
    return play(sha256)


@api.post("/assignments/<uuid:id>/first-note", responses={200: FirstNoteReading, 422: Problem})
@pupil_only
def first_note(path: ById, form: MomentUpload) -> Any:
    """Whether a moment of sound (WAV, 16 bits, one channel, at most 3 s) is the note on which the line begins."""
    settings = studio_settings()
    with own_studio() as session:
        assignment = own_assignment(session, path.id)
        pupil = session.get_one(Pupil, visitor().person.id)
        score = line_as_set(session, assignment, pupil).score
        level = level_of(assignment.level, settings.model_dump(mode="json"))
        strings = open_strings_at(session, pupil.id, datetime.now(UTC))
    samples, rate = moment(form.sound.read())
    note = score.notes[0]
    heard = hear_one_note(samples, rate, score.instrument, note.midi)
    if heard is None:
        return reply(FirstNoteReading(word=None, cents=None, words=None))
    of_string = strings.get(note.placement.string, 0.0) if note.placement else 0.0
    found = answer_first_note(score, heard, level.pitch_cents, of_string, settings.names)
    return reply(FirstNoteReading(word=found.word, cents=found.cents, words=found.words))
