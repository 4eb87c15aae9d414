"""Sign-in is slowed down where somebody guesses, and nobody is locked out: kept in the database, since every web process must see the
same count.

A try is counted before it is verified, so that many at one time do not all see the count from before; the one that was right takes its
own away. What was tried counts once however often it is tried: a child who types the same wrong word again and again holds up nobody."""

from __future__ import annotations

import hashlib
import hmac
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from math import ceil

from sqlalchemy import Engine, delete, func, select, text
from sqlalchemy.dialects.postgresql import insert

from attentive_owl.store.models import SignInAttempt
from attentive_owl.store.session import open_session
from attentive_owl.web.problems import ProblemError

_WINDOW = timedelta(minutes=15)
_WHY = "throttling comes before anyone is known"


@dataclass(frozen=True)
class Pace:
    """So many different wrong tries are free; each one more doubles the time until the next is looked at, up to the longest."""

    free: int
    longest_s: float

    def wait_s(self, tried: int) -> float:
        over = tried - self.free
        return 0.0 if over < 0 else min(2.0**over, self.longest_s)


TEACHER = Pace(10, 60.0)
"""One e-mail from one address."""
CLASS = Pace(40, 30.0)
"""One class code from one address: thirty children who each mistype a word once do not wait for one another."""
_SUBJECT = Pace(100, 5.0)
"""One class code or e-mail from wherever: a crowd of addresses is slowed down too, and the class hardly feels it."""
_ADDRESS = Pace(200, 5.0)
"""A whole school signs in from one address."""


@dataclass(frozen=True)
class Attempt:
    """One try, counted already."""

    subjects: tuple[str, ...]
    what: str


def _key(secret: str, kind: str, words: str) -> str:
    return hmac.new(secret.encode(), f"{kind}:{words.strip().lower()}".encode(), hashlib.sha256).hexdigest()


def begin(engine: Engine, secret: str, pair: Pace, subject: str, address: str, tried: str) -> Attempt:
    """Counts a try. Raises ProblemError 429, with the seconds to wait, where it comes too soon after too many others."""
    paces = {
        _key(secret, "pair", f"{subject} {address}"): pair,
        _key(secret, "subject", subject): _SUBJECT,
        _key(secret, "address", address): _ADDRESS,
    }
    what = _key(secret, "tried", f"{subject} {tried}")
    with open_session(engine, _WHY) as session:
        # In one order, so that two never wait for each other.
        for key in sorted(paces):
            session.execute(text("SELECT pg_advisory_xact_lock(hashtextextended(:key, 0))"), {"key": key})
        # Not before it is our turn: those who came while we waited would be of later than now.
        now = datetime.now(UTC)
        wait = 0.0
        for key, pace in paces.items():
            count, newest = session.execute(
                select(func.count(), func.max(SignInAttempt.at)).where(
                    SignInAttempt.subject == key, SignInAttempt.at > now - _WINDOW, SignInAttempt.what != what
                )
            ).one()
            if newest is not None:
                wait = max(wait, pace.wait_s(count) - (now - newest).total_seconds())
        if wait > 0:
            seconds = ceil(wait)
            raise ProblemError(
                429,
                f"That was tried too often. Please wait {seconds} second{'' if seconds == 1 else 's'}.",
                wait_s=seconds,
            )
        session.execute(delete(SignInAttempt).where(SignInAttempt.at < now - 4 * _WINDOW))
        for key in paces:
            session.execute(
                insert(SignInAttempt)
                .values(subject=key, what=what, at=now)
                .on_conflict_do_update(index_elements=["subject", "what"], set_={"at": now})
            )
    return Attempt(tuple(paces), what)


def was_right(engine: Engine, attempt: Attempt) -> None:
    """Takes its count away."""
    with open_session(engine, _WHY) as session:
        session.execute(
            delete(SignInAttempt).where(SignInAttempt.subject.in_(attempt.subjects), SignInAttempt.what == attempt.what)
        )
