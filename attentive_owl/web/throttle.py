"""Sign-in throttling, kept in the database: every web process must see the same count."""

from __future__ import annotations

import hashlib
import hmac
from datetime import UTC, datetime, timedelta

from sqlalchemy import Engine, delete, func, select

from attentive_owl.store.models import SignInAttempt
from attentive_owl.store.session import open_session
from attentive_owl.web.problems import ProblemError

_WINDOW = timedelta(minutes=10)
_MOST_PER_SUBJECT = 10
_MOST_PER_ADDRESS = 60
"""A whole class signs in from one school address."""
_WHY = "throttling comes before anyone is known"


def _key(secret: str, kind: str, text: str) -> str:
    return hmac.new(secret.encode(), f"{kind}:{text.strip().lower()}".encode(), hashlib.sha256).hexdigest()


def check_rate(engine: Engine, secret: str, subject: str, address: str) -> None:
    """Raises ProblemError 429 after too many failures for this e-mail or class code, or from this address."""
    since = datetime.now(UTC) - _WINDOW
    with open_session(engine, _WHY) as session:
        for kind, text, most in (("subject", subject, _MOST_PER_SUBJECT), ("address", address, _MOST_PER_ADDRESS)):
            count = session.scalar(
                select(func.count())
                .select_from(SignInAttempt)
                .where(SignInAttempt.subject == _key(secret, kind, text), SignInAttempt.at > since)
            )
            if (count or 0) >= most:
                raise ProblemError(429, "That was tried too often. Please wait ten minutes.")


def note_failure(engine: Engine, secret: str, subject: str, address: str) -> None:
    with open_session(engine, _WHY) as session:
        session.execute(delete(SignInAttempt).where(SignInAttempt.at < datetime.now(UTC) - 6 * _WINDOW))
        session.add(SignInAttempt(subject=_key(secret, "subject", subject)))
        session.add(SignInAttempt(subject=_key(secret, "address", address)))
