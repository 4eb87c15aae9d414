"""The tuning check: a moment of one open string is heard. The sound is not kept; what it said of the string is, for the day."""

from __future__ import annotations

import io
import wave
from typing import Any

import numpy as np
from numpy.typing import NDArray

from attentive_owl.core.instruments import instrument, tuning_words
from attentive_owl.core.listening import hear_open_string
from attentive_owl.store.tuning import keep_reading
from attentive_owl.web.access import own_studio, pupil_only, visitor
from attentive_owl.web.areas import Area
from attentive_owl.web.problems import ProblemError
from attentive_owl.web.replies import reply
from attentive_owl.web.schemas.common import Problem
from attentive_owl.web.schemas.tuning import MomentUpload, StringReading

api = Area("tuning", __name__, 401)
_LONGEST_S = 3.0


@api.post("/tuning-check", responses={200: StringReading, 422: Problem})
@pupil_only
def tuning_check(form: MomentUpload) -> Any:
    """Which of the pupil's strings sounds in a moment of sound (WAV, 16 bits, one channel, at most 3 s), and how far
    from its place with A = 440 Hz and pure fifths (fourths on the double bass)."""
    samples, rate = moment(form.sound.read())
    player = instrument(visitor().person.instrument or "violin")
    found = hear_open_string(samples, rate, player)
    if found is None:
        return reply(StringReading(string=None, cents=None, plus_minus_cents=None, word=None, words=None))
    with own_studio() as session:
        keep_reading(session, visitor().studio_id, visitor().person.id, found.string, found.cents)
    return reply(
        StringReading(
            string=found.string,
            cents=found.cents,
            plus_minus_cents=found.uncertainty_cents,
            word=found.word,
            words=tuning_words(player, found.string, found.cents, found.word == "in tune"),
        )
    )


def moment(data: bytes) -> tuple[NDArray[np.float32], int]:
    """Samples and rate of a short WAV file. Raises ProblemError with a sentence for what is none."""
    try:
        with wave.open(io.BytesIO(data)) as file:
            if file.getnchannels() != 1 or file.getsampwidth() != 2 or not 8000 <= file.getframerate() <= 192_000:
                raise ProblemError(422, "A moment of sound is a WAV file of 16 bits and one channel.")
            rate = file.getframerate()
            raw = file.readframes(int(_LONGEST_S * rate))
    except (wave.Error, EOFError) as error:
        raise ProblemError(422, "A moment of sound is a WAV file of 16 bits and one channel.") from error
    if len(raw) < 0.2 * rate * 2:
        raise ProblemError(422, "That was too short to hear a string.")
    return np.frombuffer(raw, "<i2").astype(np.float32) / 32768.0, rate
