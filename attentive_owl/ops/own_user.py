"""Started as root, the pages, the worker and the decoder of strangers' files run as a user of their own, who may write their folder and
nothing else."""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

from attentive_owl.settings import ROOT

USER = "attentive-owl"
_TREES = ("audio", "log", "metrics")
_FILES = ("secret.key", "database.url", "store.seen")


def own_user(var: Path) -> str | None:
    """The user for what we start; None where we are no root, and stay who we are. Raises LookupError with one sentence where
    there can be no such user, or where the program or its folder lies where none could read it."""
    if os.geteuid() != 0:
        return None
    try:
        pwd.getpwnam(USER)
    except KeyError:
        made = subprocess.run(
            ["useradd", "--system", "--no-create-home", "--home-dir", str(var), "--shell", "/usr/sbin/nologin", USER],
            capture_output=True, check=False,
        )  # fmt: skip
        if made.returncode != 0:
            raise LookupError(f"It runs as root: the user {USER} could not be made here.") from None
    if not can_run(USER, [sys.executable, "-c", "import attentive_owl.web.app"]) or not can_run(
        USER, ["test", "-x", str(var)]
    ):
        raise LookupError(
            f"It runs as root: the program or {var} lies where no other user can read it. For real recordings put it under /opt, or start "
            "it as a user of its own."
        )
    return USER


def can_run(user: str, command: list[str]) -> bool:
    done = subprocess.run(["runuser", "-u", user, "--", *command], capture_output=True, cwd=ROOT.anchor, check=False)
    return done.returncode == 0


def hand_over(var: Path, user: str) -> None:
    """The folder and what is the program's in it; the database's own folder and password stay whose they are."""
    shutil.chown(var, user, user)
    for path in _owned(var):
        shutil.chown(path, user, user)


def _owned(var: Path) -> Iterable[Path]:
    for name in _FILES:
        if (var / name).exists():
            yield var / name
    for name in _TREES:
        for folder, _, files in os.walk(var / name):
            yield Path(folder)
            yield from (Path(folder, own) for own in files)
