"""The table of commands. Each is imported when it is run: the ear, the engraver and the web take longer to import than most commands
take to do their work."""

from __future__ import annotations

import os
from importlib import import_module

import click

# The ear's matrices are small: more threads only wait for each other, at twice the processor's time. Read when numpy is imported.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

COMMANDS = {
    "check": ("check:check", "Check a take (a sound file) against a score (MusicXML)."),
    "hear": ("hear:hear", "Draw what the ear makes of a take."),
    "exercise": ("exercise:exercise", "Make an exercise as MusicXML."),
    "engrave": ("engrave:engrave", "Engrave a score, one picture a system."),
    "perform": ("perform:perform", "Let the simulated pupil play a score with given habits."),
    "serve": ("running:serve", "Database, web and worker together on this machine (what ./start runs)."),
    "worker": ("running:worker", "Check takes from the queue until told to stop."),
    "migrate": ("running:migrate", "Bring the database to the newest form."),
    "demo": ("running:demo", "Fill an empty database with the demo scenario."),
    "admin": ("admin:admin", "Studios and teachers: make, reset, sign out, erase."),
    "archive": ("archive:archive", "A whole studio as one file, out and in again."),
    "backup": ("backup:backup", "Everything of an installation into one file."),
    "restore": ("backup:restore", "And back, into an empty installation."),
    "openapi": ("running:openapi", "Write the OpenAPI document of the web interface."),
}
"""Name -> module and function within this package, and its one line of help."""


class _Table(click.Group):
    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in COMMANDS:
            return None
        module, _, function = COMMANDS[cmd_name][0].partition(":")
        command: click.Command = getattr(import_module(f"{__package__}.{module}"), function)
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        with formatter.section("Commands"):
            formatter.write_dl([(name, line) for name, (_, line) in COMMANDS.items()])


@click.group(cls=_Table, context_settings={"help_option_names": ["-h", "--help"]})
def main() -> None:
    """Warm-ups for beginner strings: set, practised, recorded, checked, marked."""
