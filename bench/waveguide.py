"""A bowed string computed by Csound's waveguide (opcode wgbow, after Cook and McIntyre), as a source of takes: it speaks
late, whistles and breaks like a string, and was made by others. Debian's package: csound."""

from __future__ import annotations

import subprocess
import tempfile
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from attentive_owl.core.playing import Performed, PerformedNote
from attentive_owl.core.playing.synthesis import Truth
from attentive_owl.core.theory import frequency_hz
from bench.measuring import MEASURED_RATE
from bench.singly import put_together

_APART_S = 0.4
_BOW_PLACE, _ATTACK_S = (0.10, 0.16), (0.01, 0.04)
_SCRATCH_S = 0.04
_FILE = """<CsoundSynthesizer>
<CsOptions>
-d -W -f -o {wav}
</CsOptions>
<CsInstruments>
sr = {rate}
ksmps = 16
nchnls = 1
0dbfs = 1
giSine ftgen 1, 0, 4096, 10, 1

instr 1
 kloud linseg 0, p6, 1, p3 - p6 - 0.05, 0.9, 0.05, 0
 kscratch linseg 1, {scratch}, 0, p3, 0
 astring wgbow 0.5, p4, 3, p5, 0, 0, 1
 anoise noise 0.02 * kscratch, 0
 aout buthp astring, 30
 out (aout + anoise) * kloud
endin
</CsInstruments>
<CsScore>
{notes}
e
</CsScore>
</CsoundSynthesizer>
"""


def render_waveguide(performed: Performed, _: str) -> tuple[NDArray[np.float32], tuple[Truth, ...]]:
    """The performance on a bowed waveguide, every note another bow. All instruments have one string: the pitch tells."""
    rng = np.random.default_rng(len(performed.notes))
    begins, lines, at = {}, [], 0.0
    for note in performed.notes:
        length_s = note.end_s - note.start_s + 0.1
        place, attack_s = rng.uniform(*_BOW_PLACE), rng.uniform(*_ATTACK_S)
        lines.append(f"i1 {at:.5f} {length_s:.5f} {frequency_hz(note.midi):.5f} {place:.4f} {attack_s:.4f}")
        begins[id(note)] = at
        at += length_s + _APART_S
    with tempfile.TemporaryDirectory() as folder:
        orchestra, wav = Path(folder, "notes.csd"), Path(folder, "notes.wav")
        orchestra.write_text(
            _FILE.format(wav=wav, rate=MEASURED_RATE, scratch=_SCRATCH_S, notes="\n".join(lines)), encoding="ascii"
        )
        subprocess.run(["csound", str(orchestra)], check=True, capture_output=True)
        sound, _rate = soundfile.read(wav)

    def voice(note: PerformedNote, seconds: float) -> NDArray[np.floating]:
        begin = int(begins[id(note)] * MEASURED_RATE)
        return sound[begin : begin + int(seconds * MEASURED_RATE)]

    return put_together(performed, voice)
