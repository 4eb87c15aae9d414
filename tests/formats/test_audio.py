"""Files in: every accepted kind, every kind of damage."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from attentive_owl.formats.audio import AudioFileError, decode_to_flac, flac_bytes, read_flac, read_plain

RATE = 48000
CODECS = {
    "wav": "pcm_s16le",
    "flac": "flac",
    "ogg": "libopus",
    "mp3": "libmp3lame",
    "webm": "libopus",
    "m4a": "aac",
    "mp4": "aac",
    "mov": "aac",
}


def tone(seconds: float = 2.0) -> np.ndarray:
    """440 Hz that starts at half a second."""
    time = np.arange(int(seconds * RATE)) / RATE
    return (0.5 * np.sin(2 * np.pi * 440 * time) * (time >= 0.5)).astype(np.float32)


def encode(path: Path, codec: str, samples: np.ndarray) -> None:
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=RATE)
        stream.layout = "mono"
        frame = av.AudioFrame.from_ndarray(samples.reshape(1, -1), format="fltp", layout="mono")
        frame.sample_rate = RATE
        frame.pts = 0
        resampler = av.AudioResampler(
            format=stream.format, layout="mono", rate=RATE, frame_size=stream.frame_size or 1024
        )
        for piece in resampler.resample(frame) + resampler.resample(None):
            container.mux(stream.encode(piece))
        container.mux(stream.encode(None))


@pytest.mark.parametrize("ending", CODECS)
def test_every_accepted_kind_comes_out_in_time_and_in_tune(tmp_path: Path, ending: str) -> None:
    source, target = tmp_path / f"a.{ending}", tmp_path / "a.flac"
    encode(source, CODECS[ending], tone())
    decoded = decode_to_flac(source, target)
    samples, rate = read_flac(target)
    assert decoded.duration_s == pytest.approx(2.0, abs=0.06)
    loud = np.abs(samples) > 0.25
    assert np.argmax(loud) / rate == pytest.approx(0.5, abs=0.003)
    middle = samples[int(0.8 * rate) : int(1.8 * rate)]
    hz = np.argmax(np.abs(np.fft.rfft(middle * np.hanning(len(middle))))) * rate / len(middle)
    assert hz == pytest.approx(440, abs=1.1)


def test_picture_is_dropped_and_stereo_mixed(tmp_path: Path) -> None:
    source, target = tmp_path / "s.wav", tmp_path / "s.flac"
    soundfile.write(source, np.stack([tone(), np.zeros_like(tone())], axis=1), RATE)
    decode_to_flac(source, target)
    samples, _ = read_flac(target)
    assert samples.ndim == 1
    assert np.max(np.abs(samples)) == pytest.approx(0.25, abs=0.12)


def wav_bytes(tmp_path: Path, seconds: float = 2.0) -> bytes:
    path = tmp_path / "whole.wav"
    soundfile.write(path, tone(seconds), RATE)
    return path.read_bytes()


@pytest.mark.parametrize(
    ("name", "says"),
    [
        ("empty", "empty"),
        ("text", "could not be read"),
        ("half flac", "part|damaged|could not"),
        ("half wav", "Only a part"),
        ("no sound", "no sound"),
        ("corrupt flac", "damaged|part|could not"),
    ],
)
def test_damage_gets_one_sentence_and_leaves_nothing(tmp_path: Path, name: str, says: str) -> None:
    source, target = tmp_path / "bad", tmp_path / "bad.flac"
    good = flac_bytes(tone() + 0.1 * np.random.default_rng(1).normal(size=2 * RATE).astype(np.float32), RATE)
    content = {
        "empty": b"",
        "text": b"This is a letter, not a sound.\n" * 50,
        "half flac": good[: len(good) // 2],
        "half wav": (whole := wav_bytes(tmp_path, 4.0))[: len(whole) // 2],
        "no sound": wav_bytes(tmp_path, 0.01),
        "corrupt flac": good[:200] + bytes(b ^ 0x5A for b in good[200:]),
    }[name]
    source.write_bytes(content)
    with pytest.raises(AudioFileError, match=says):
        decode_to_flac(source, target)
    assert not target.exists()


def test_a_file_shorter_than_its_sender_says_was_cut_on_the_way(tmp_path: Path) -> None:
    source, target = tmp_path / "cut.wav", tmp_path / "cut.flac"
    whole = wav_bytes(tmp_path, 4.0)
    source.write_bytes(whole[: len(whole) // 2])
    with pytest.raises(AudioFileError, match="part"):
        decode_to_flac(source, target, claimed_s=4.0)
    assert not target.exists()


def test_a_wav_whose_length_was_written_before_its_sound_is_whole(tmp_path: Path) -> None:
    source = tmp_path / "stream.wav"
    whole = wav_bytes(tmp_path, 2.0)
    at = whole.index(b"data") + 4
    source.write_bytes(whole[:at] + b"\xff\xff\xff\xff" + whole[at + 4 :])
    assert decode_to_flac(source, tmp_path / "out.flac").duration_s == pytest.approx(2.0, abs=0.01)


def test_ten_minutes_at_most(tmp_path: Path) -> None:
    source, target = tmp_path / "long.flac", tmp_path / "out.flac"
    soundfile.write(source, np.zeros(8000 * 601, np.float32), 8000)
    with pytest.raises(AudioFileError, match="ten minutes"):
        decode_to_flac(source, target)
    assert not target.exists()


def test_the_decoder_has_a_memory_limit_of_its_own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    source = tmp_path / "a.wav"
    source.write_bytes(wav_bytes(tmp_path))
    from attentive_owl.formats import confined

    monkeypatch.setattr(confined, "_TIMEOUT_S", 0.001)
    with pytest.raises(AudioFileError, match="too long to read"):
        decode_to_flac(source, tmp_path / "a.flac")


@pytest.mark.parametrize("ending", ["wav", "flac"])
def test_a_plain_recording_is_read_as_it_is_decoded(tmp_path: Path, ending: str) -> None:
    path, decoded = tmp_path / f"take.{ending}", tmp_path / "decoded.flac"
    soundfile.write(path, tone(), RATE, subtype="PCM_16")
    decode_to_flac(path, decoded)
    plain = read_plain(path)
    assert plain is not None
    samples, rate = read_flac(decoded)
    assert np.array_equal(plain[0], samples)
    assert plain[1] == rate == RATE


@pytest.mark.parametrize("kind", ["stereo", "24 bits", "Ogg", "short", "slow", "cut", "cut FLAC", "empty", "text"])
def test_what_is_not_plain_is_left_to_the_decoder(tmp_path: Path, kind: str) -> None:
    path = tmp_path / "take.wav"
    own = np.stack([tone()] * 2, axis=1) if kind == "stereo" else tone(0.1) if kind == "short" else tone()
    rate, subtype = 4000 if kind == "slow" else RATE, "PCM_24" if kind == "24 bits" else "PCM_16"
    if kind == "Ogg":
        soundfile.write(path, own, rate, format="OGG", subtype="VORBIS")
    else:
        soundfile.write(path, own, rate, format="FLAC" if kind == "cut FLAC" else "WAV", subtype=subtype)
    if kind.startswith("cut"):
        path.write_bytes(path.read_bytes()[: path.stat().st_size // 2])
    elif kind in ("empty", "text"):
        path.write_bytes(b"" if kind == "empty" else b"Dear teacher")
    assert read_plain(path) is None
