"""owl perform: the simulated pupil plays."""

from __future__ import annotations

import json
from dataclasses import asdict
from pathlib import Path

import click
import soundfile

from attentive_owl.cli.files import Sentence, read_score, write_file
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.playing import Room, parse_habits, perform_score, place_in_room, render
from attentive_owl.formats.audio import flac_bytes

_RATE = 44100


@click.command()
@click.argument("score", type=click.Path(path_type=Path))
@click.option("-o", "--output", type=click.Path(path_type=Path), required=True, help="A .wav or .flac file.")
@click.option("--instrument", type=click.Choice(list(INSTRUMENTS)))
@click.option("--habit", "habits", multiple=True, help="name=value, for example finger_cents=2:-30 or missed=4,7.")
@click.option("--tempo", type=click.FloatRange(20, 300))
@click.option("--snr-db", type=float, default=45.0, show_default=True)
@click.option("--reverb-s", type=click.FloatRange(0, 5), default=0.2, show_default=True)
@click.option("--seed", type=int, default=0, show_default=True)
@click.option("--truth", type=click.Path(path_type=Path), help="Write what was really played, as JSON.")
def perform(
    score: Path,
    output: Path,
    instrument: str | None,
    habits: tuple[str, ...],
    tempo: float | None,
    snr_db: float,
    reverb_s: float,
    seed: int,
    truth: Path | None,
) -> None:
    """Let the simulated pupil play SCORE with the given habits."""
    written = read_score(score, instrument)
    if tempo:
        written = written.at_tempo(tempo)
    try:
        performed = perform_score(written, parse_habits(habits), seed)
    except ValueError as error:
        raise Sentence(str(error)) from error
    dry, truths = render(performed, written.instrument_key, _RATE, seed)
    samples = place_in_room(dry, _RATE, Room(snr_db=snr_db, reverb_s=reverb_s), seed)
    if output.suffix.lower() == ".flac":
        write_file(output, flac_bytes(samples, _RATE))
    elif output.suffix.lower() == ".wav":
        try:
            soundfile.write(output, samples, _RATE, subtype="PCM_16")
        except (OSError, soundfile.LibsndfileError) as error:
            raise Sentence(f"{output} could not be written.") from error
    else:
        raise Sentence("The output is a .wav or .flac file.")
    if truth is not None:
        entries = [
            {
                "index": t.note.index,
                "onset_s": t.onset_s,
                "offset_s": t.offset_s,
                "midi": float(t.note.midi),
                "pass": t.note.go,
            }
            for t in truths
        ]
        document = {"tempo_bpm": performed.tempo_bpm, "notes": entries, "habits": asdict(parse_habits(habits))}
        write_file(truth, (json.dumps(document, indent=1) + "\n").encode())
    click.echo(f"{len(samples) / _RATE:.1f} s -> {output}")
