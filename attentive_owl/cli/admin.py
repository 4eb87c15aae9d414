"""owl admin: studios and teachers from the command line, for whoever runs the installation."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import contextmanager

import click
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from attentive_owl.cli.files import Sentence
from attentive_owl.settings import Settings, load_settings
from attentive_owl.store.audio import AudioStore
from attentive_owl.store.erasure import erase_studio, remove_files
from attentive_owl.store.models import Pupil, Studio, Teacher
from attentive_owl.store.passphrases import hash_secret, new_passphrase
from attentive_owl.store.session import make_engine, open_session

_WHY = "whoever runs the installation may change every studio"


@click.group()
def admin() -> None:
    """Studios and teachers."""


def _settings() -> Settings:
    try:
        return load_settings()
    except RuntimeError as error:
        raise Sentence(str(error)) from error


@contextmanager
def _house() -> Iterator[Session]:
    engine = make_engine(_settings().database_url)
    try:
        with open_session(engine, _WHY) as session:
            yield session
    finally:
        engine.dispose()


def _new_password() -> str:
    """Four words and a number: it can be read out, and is changed at once."""
    return f"{new_passphrase()} {secrets.randbelow(90) + 10}"


def _studio(session: Session, name: str) -> Studio:
    found = session.scalars(select(Studio).where(Studio.name == name)).all()
    if len(found) != 1:
        known = ", ".join(session.scalars(select(Studio.name).order_by(Studio.name))) or "there is none"
        raise Sentence(f"There is no one studio of the name {name!r}; known are: {known}.")
    return found[0]


def _teacher(session: Session, email: str) -> Teacher:
    found = session.scalar(select(Teacher).where(func.lower(Teacher.email) == email.lower()))
    if found is None:
        raise Sentence(f"No teacher has the e-mail {email}.")
    return found


def _add_teacher(session: Session, studio: Studio, email: str, name: str, rank: str) -> str:
    if session.scalar(select(Teacher.id).where(func.lower(Teacher.email) == email.lower())) is not None:
        raise Sentence("This e-mail has an account already.")
    password = _new_password()
    session.add(Teacher(studio_id=studio.id, email=email, name=name, password_hash=hash_secret(password), rank=rank))
    return password


@admin.command()
@click.argument("name")
@click.option("--teacher", required=True, help="Name of its first teacher, as pupils know them.")
@click.option("--email", required=True, help="By which that teacher signs in.")
def studio(name: str, teacher: str, email: str) -> None:
    """Make a studio and its first teacher; prints the password."""
    with _house() as session:
        own = Studio(name=name)
        session.add(own)
        session.flush()
        password = _add_teacher(session, own, email, teacher, "owner")
    click.echo(f"{email} signs in with: {password}")


@admin.command()
@click.argument("email")
@click.option("--studio", "studio_name", required=True)
@click.option("--name", required=True, help="As pupils know them.")
@click.option("--rank", type=click.Choice(["owner", "teacher", "assistant"]), default="teacher", show_default=True)
def teacher(email: str, studio_name: str, name: str, rank: str) -> None:
    """Add a teacher to a studio; prints the password."""
    with _house() as session:
        password = _add_teacher(session, _studio(session, studio_name), email, name, rank)
    click.echo(f"{email} signs in with: {password}")


@admin.command()
@click.argument("email")
def password(email: str) -> None:
    """Give a teacher a new password, and end every session; prints it."""
    fresh = _new_password()
    with _house() as session:
        own = _teacher(session, email)
        own.password_hash = hash_secret(fresh)
        own.epoch += 1
    click.echo(f"{email} signs in with: {fresh}")


@admin.command("sign-out")
@click.argument("studio_name")
def sign_out(studio_name: str) -> None:
    """End every session of everybody in a studio."""
    with _house() as session:
        own = _studio(session, studio_name)
        people: list[Teacher | Pupil] = [
            *session.scalars(select(Teacher).where(Teacher.studio_id == own.id)),
            *session.scalars(select(Pupil).where(Pupil.studio_id == own.id)),
        ]
        for person in people:
            person.epoch += 1
    click.echo(f"{len(people)} people are signed out.")


@admin.command("erase-studio")
@click.argument("studio_name")
@click.option("--yes", is_flag=True, help="Without asking.")
def erase(studio_name: str, yes: bool) -> None:
    """Erase a studio for good: people, takes, recordings."""
    settings = _settings()
    if not yes:
        click.confirm(f"Erase {studio_name} for good?", abort=True)
    with _house() as session:
        hashes = erase_studio(session, _studio(session, studio_name).id)
    with _house() as session:
        files = remove_files(session, AudioStore(settings.audio_url, settings.store_seen), hashes)
    click.echo(f"{studio_name} is erased, with {files} files.")
