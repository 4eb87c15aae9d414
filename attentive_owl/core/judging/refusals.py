"""Why a take is not judged, and what is said instead: one entry a code."""

from __future__ import annotations

from collections.abc import Callable

from attentive_owl.core.exercises import Score
from attentive_owl.core.instruments import INSTRUMENTS
from attentive_owl.core.judging.speech import Speaker, Words, capital, counted, together
from attentive_owl.core.listening.performance import Refusal, RefusalCode
from attentive_owl.core.theory import Pitch, in_vocabulary, say

Say = Callable[[Refusal, Speaker], Words]


def _always(child: str, parent: str, teacher: str) -> Say:
    return lambda refusal, speaker: Words(child, parent, teacher)


_NAMES = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")


def _began_on(shift: int, speaker: Speaker) -> str:
    """The name of the first note of the line, so many semitones away."""
    midi = speaker.score.notes[0].midi + shift
    return say(Pitch.parse(f"{_NAMES[midi % 12]}4"), speaker.names, speaker.score.key)


def _another_key(refusal: Refusal, speaker: Speaker) -> Words:
    first, shift = speaker.note(0), refusal.shift_semitones
    if not shift:
        return _another_line(refusal, speaker)
    began = _began_on(shift, speaker)
    return Words(
        f"You started on {began}: this line starts on {first}. Find {first}, and play it from there.",
        f"The line was played from {began}; it begins on {first}. Find that first note together.",
        f"The same line, {counted(abs(shift), 'half step')} too {'high' if shift > 0 else 'low'}: it began on {began} instead of {first}. Not judged.",
    )


def _another_octave(refusal: Refusal, speaker: Speaker) -> Words:
    way, other = ("high", "lower") if (refusal.shift_semitones or 0) > 0 else ("low", "higher")
    first = speaker.note(0)
    return Words(
        f"That was an octave too {way}. Your line starts on the {other} {first}.",
        f"The line was played an octave too {way}. Find the {other} {first} together.",
        f"The line was played an octave too {way}. Not judged.",
    )


def _another_instrument(refusal: Refusal, speaker: Speaker) -> Words:
    """Whose line it is, by name where it is known, else by whose strings hold it."""
    own = speaker.score.instrument.name.lower()
    whose = [refusal.sounds_like] if refusal.sounds_like else _holders(speaker.score, refusal.shift_semitones or 0)
    part = "the line of another instrument"
    if whose:
        part = f"the {whose[0]}'s line" if len(whose) == 1 else f"a line for {' or '.join(whose)}"
    return Words(
        f"This is {part}. Open the page of your {own}, and play that one.",
        f"The recording is of {part}. The page that is open is for the {own}.",
        f"This is {part}, an octave or more away from the {own}'s. Not judged.",
    )


def _holders(score: Score, shift: int) -> list[str]:
    low, high = min(n.midi for n in score.notes) + shift, max(n.midi for n in score.notes) + shift
    own = score.instrument_key
    return [
        instrument.name.lower()
        for key, instrument in INSTRUMENTS.items()
        if key != own and instrument.lowest.midi <= low and high <= instrument.beginners_top_midi
    ]


_RHYTHMS = {
    "long": "long notes",
    "dotted": "long and short notes in turn",
    "even": "even notes",
}


_COUNTS = {"short": "more", "fewer": "fewer"}


def _another_rhythm(refusal: Refusal, speaker: Speaker) -> Words:
    if refusal.shift_semitones:
        return _elsewhere_in_another_rhythm(refusal.shift_semitones, speaker)
    if refusal.pattern and refusal.written_pattern:
        return _another_pattern(
            *(in_vocabulary(name, speaker.values) for name in (refusal.pattern, refusal.written_pattern))
        )
    written = _written_rhythm(speaker)
    if refusal.rhythm in _COUNTS:
        count = _COUNTS[refusal.rhythm]
        return Words(
            f"You played {count} notes than are written: {written} are on your page. Say the words under the notes, then play it again.",
            f"It is this line in another rhythm: {count} notes were played than are written. Say the words together first.",
            f"The notes of the line with {count} strokes than are written: {written}. Not judged.",
        )
    heard = _RHYTHMS.get(refusal.rhythm or "")
    if heard is None:
        return Words(
            "That was the line on your page, in another rhythm. Say the words under the notes, then play it again.",
            "It is this line in another rhythm. Say the words under the notes together, then play.",
            f"The notes of the line in another rhythm; {written} are written. Not judged.",
        )
    return Words(
        f"You played {heard}; {written} are on your page. Say the words under the notes, then play it again.",
        f"It is this line in another rhythm: {heard} were played, and {written} are written. Say the words together first.",
        f"The notes of the line as {heard}; {written} are written. Not judged.",
    )


def _another_pattern(heard: str, written: str) -> Words:
    return Words(
        f"You played “{heard}”, and “{written}” is on your page. Say the words under the notes, then play it again.",
        f"It is this line in another rhythm: “{heard}” was played, and “{written}” is written. Say the words together first.",
        f"The notes of the line as “{heard}”; “{written}” is written. Not judged.",
    )


def _elsewhere_in_another_rhythm(shift: int, speaker: Speaker) -> Words:
    """On the next string or an octave away, and not as it is written either: most likely another line."""
    first, began = speaker.note(0), _began_on(shift, speaker)
    started, where = f"You started on {began}: this line starts on {first}", f"from {began} instead of {first}"
    if shift % 12 == 0:
        where = f"an octave too {'high' if shift > 0 else 'low'}"
        started = f"That was {where}"
    return Words(
        f"{started}. The rhythm was another one, too. Check which line is open, and play it again.",
        f"The line was played {where}, and in another rhythm. Check together which line is open.",
        f"The line {where}, and in another rhythm. Not judged.",
    )


def _written_rhythm(speaker: Speaker) -> str:
    """The lengths that the line is made of: "quarters", "sixteenths and eighths"."""
    values = sorted({float(note.duration_beats) for note in speaker.score.notes})
    if len(values) > 3:
        return "other notes"
    return together(speaker.value(value) for value in values)


def _another_line(refusal: Refusal, speaker: Speaker) -> Words:
    if refusal.sounds_like is None:
        return Words(
            "This did not sound like the line on your page. Check which exercise is open, and play it again.",
            "The recording is not the line on the page. Check together which exercise is open.",
            "Not this line, and none that is known. Not judged.",
        )
    name = in_vocabulary(refusal.sounds_like, speaker.values)
    return Words(
        f"This sounded like “{name}”, and your page has another line. Check which exercise is open, and play it again.",
        f"The recording sounds like “{name}”; the page that is open has another line.",
        f"Sounds like “{name}”. Not judged.",
    )


def _known_line(refusal: Refusal, speaker: Speaker) -> Words:
    if refusal.known_as is None or refusal.sounds_like is None:
        return _another_line(refusal, speaker)
    name = in_vocabulary(refusal.sounds_like, speaker.values)
    return Words(
        f"This sounds like “{name}”. Open it there, and hand it in again; or play the line on this page.",
        f"The recording sounds like “{name}”, which is another exercise that is set. It can be opened from here.",
        f"Sounds like “{name}”, another exercise of this pupil's. Not judged here.",
    )


REFUSALS: dict[str, Say] = {
    RefusalCode.SILENCE: _always(
        "I could not hear any playing. Is the microphone near you, and is it switched on?",
        "Nothing was heard. Check that the microphone is allowed, switched on, and near the instrument.",
        "No playing in the recording.",
    ),
    RefusalCode.TOO_SHORT: _always(
        "That was too short to hear. Take your time and play the whole line.",
        "The recording ends before anything could be heard in it.",
        "Too short to be heard.",
    ),
    RefusalCode.TOO_FAR: _always(
        "You were too far away to hear. Put the microphone about an arm's length from you, and play it again.",
        "The playing is very faint. The microphone should lie about an arm's length away, with nothing over it.",
        "Too faint to be judged: the microphone was far away or covered.",
    ),
    RefusalCode.TOO_NOISY: _always(
        "It was too noisy to hear your notes. Try again in a quieter room.",
        "There was too much noise around the playing. A quieter room helps, or a microphone nearer to the instrument.",
        "Too noisy to be judged.",
    ),
    RefusalCode.VOICES: _always(
        "I heard voices, and no playing that I could follow. Play it when the room is quiet.",
        "Voices were heard, and no playing that could be followed.",
        "Voices, and no playing that could be followed.",
    ),
    RefusalCode.NO_CLEAR_NOTES: _always(
        "I heard you, and could not make out your notes. Play it a little slower, or move the microphone a little.",
        "Most of what was heard has no clear pitch. Play it slower, or move the microphone, so that nothing covers it.",
        "Most of what sounds has no clear pitch: very short or scratched strokes, or something over the playing. Not judged.",
    ),
    RefusalCode.ANOTHER_KEY: _another_key,
    RefusalCode.ANOTHER_OCTAVE: _another_octave,
    RefusalCode.ANOTHER_INSTRUMENT: _another_instrument,
    RefusalCode.ANOTHER_RHYTHM: _another_rhythm,
    RefusalCode.ANOTHER_EXERCISE: _known_line,
    RefusalCode.NOT_THIS_EXERCISE: _another_line,
}
"""Code -> what is said."""

TITLES: dict[str, str] = {
    RefusalCode.UNREADABLE: "the file could not be read",
    RefusalCode.SILENCE: "silence",
    RefusalCode.TOO_SHORT: "too short",
    RefusalCode.TOO_FAR: "too far from the microphone",
    RefusalCode.TOO_NOISY: "too noisy",
    RefusalCode.VOICES: "voices",
    RefusalCode.NO_CLEAR_NOTES: "no clear notes",
    RefusalCode.ANOTHER_KEY: "another key",
    RefusalCode.ANOTHER_OCTAVE: "another octave",
    RefusalCode.ANOTHER_INSTRUMENT: "another instrument's line",
    RefusalCode.ANOTHER_RHYTHM: "another rhythm",
    RefusalCode.ANOTHER_EXERCISE: "another exercise",
    RefusalCode.NOT_THIS_EXERCISE: "not this line",
}
"""Code -> two or three words for a list."""


def refusal_words(refusal: Refusal, speaker: Speaker) -> Words:
    """Why a take is not judged, for its three readers."""
    said = REFUSALS[refusal.code](refusal, speaker)
    return Words(capital(said.child), capital(said.parent), capital(said.teacher))
