"""Reading recordings of every kind, and saying what is wrong with those that cannot be read."""

from __future__ import annotations

import os
import struct
from dataclasses import replace
from pathlib import Path

import av
import numpy as np
import pytest
import soundfile

from tests.conftest import FERRY, make_song
from ychronos.analysis import pipeline
from ychronos.audio import recording
from ychronos.audio.decode import AudioError, Cancelled, content_hash, open_stream
from ychronos.audio.whole import overruns
from ychronos.formats import project
from ychronos.song.titles import title_of

RATE = 44100


def tone(seconds: float = 1.0, rate: int = RATE, channels: int = 2, hertz: float = 440.0) -> np.ndarray:
    t = np.arange(int(seconds * rate)) / rate
    return np.repeat(0.5 * np.sin(2 * np.pi * hertz * t)[:, None], channels, axis=1).astype(np.float32)


def write_av(path: Path, codec: str, samples: np.ndarray, rate: int) -> None:
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=rate, layout="stereo")
        frame_size = 960
        for start in range(0, len(samples), frame_size):
            block = np.ascontiguousarray(samples[start : start + frame_size].T)
            frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo")
            frame.rate, frame.pts = rate, start
            for packet in stream.encode(frame):
                container.mux(packet)
        for packet in stream.encode(None):
            container.mux(packet)


@pytest.mark.parametrize("name", ["t.wav", "t.flac", "t.ogg", "t.mp3", "t.aiff"])
def test_reads_through_sndfile(tmp_path: Path, name: str) -> None:
    path = tmp_path / name
    soundfile.write(path, tone(), RATE)
    check(recording.load(path), RATE)


@pytest.mark.parametrize(
    ("name", "codec", "rate"),
    [("t.m4a", "aac", 44100), ("t.webm", "libopus", 48000), ("t.opus", "libopus", 48000), ("t.mkv", "aac", 44100)],
)
def test_reads_through_av(tmp_path: Path, name: str, codec: str, rate: int) -> None:
    path = tmp_path / name
    write_av(path, codec, tone(rate=rate), rate)
    check(recording.load(path), rate)


def check(sound: recording.Recording, rate: int) -> None:
    """One second of a 440 Hz tone at half level, whatever it was packed in."""
    assert sound.rate == rate
    assert sound.channels == 2
    assert sound.duration == pytest.approx(1.0, abs=0.08)
    assert sound.samples is not None
    assert sound.samples.dtype == np.float32
    assert np.abs(sound.peaks).max() == pytest.approx(0.5, abs=0.08)
    assert len(sound.mono) == pytest.approx(sound.duration * recording.ANALYSIS_RATE, abs=3)
    spectrum = np.abs(np.fft.rfft(sound.mono[:22050] * np.hanning(min(22050, len(sound.mono)))))
    assert np.argmax(spectrum) * recording.ANALYSIS_RATE / min(22050, len(sound.mono)) == pytest.approx(440, abs=2)
    assert len(sound.sha256) == 64
    assert not sound.note


@pytest.mark.parametrize(("rate", "channels"), [(8000, 1), (22050, 1), (96000, 2), (44100, 6)])
def test_any_rate_and_channel_count(tmp_path: Path, rate: int, channels: int) -> None:
    path = tmp_path / "t.wav"
    soundfile.write(path, tone(rate=rate, channels=channels), rate)
    sound = recording.load(path)
    assert (sound.rate, sound.channels) == (rate, channels)
    assert len(sound.mono) == pytest.approx(22050, abs=3)


def test_missing_empty_and_wrong_files(tmp_path: Path) -> None:
    (tmp_path / "empty.wav").write_bytes(b"")
    (tmp_path / "letter.mp3").write_text("Dear station,\nhere is the tape.\n" * 50)
    (tmp_path / "folder").mkdir()
    soundfile.write(tmp_path / "none.wav", np.zeros((0, 2), np.float32), RATE)
    for name, word in (
        ("gone.wav", "not there"),
        ("empty.wav", "empty"),
        ("letter.mp3", "not a recording"),
        ("folder", "folder"),
        ("none.wav", "no sound"),
    ):
        with pytest.raises(AudioError, match=word) as caught:
            recording.load(tmp_path / name)
        assert "\n" not in str(caught.value)


@pytest.mark.parametrize("share", [0.5, 0.9])
def test_truncated_file_gives_what_it_holds(tmp_path: Path, share: float) -> None:
    whole = FERRY.read_bytes()
    path = tmp_path / "cut.ogg"
    path.write_bytes(whole[: int(share * len(whole))])
    sound = recording.load(path, keep_samples=False)
    assert 0.3 * share < sound.duration / 101.8 < 1.05 * share


def test_truncated_wav_says_so(tmp_path: Path) -> None:
    path = tmp_path / "cut.flac"
    soundfile.write(path, np.random.default_rng(1).normal(0, 0.1, (RATE * 4, 2)), RATE)
    data = path.read_bytes()
    path.write_bytes(data[: len(data) // 2])
    sound = recording.load(path)
    assert 0.5 < sound.duration < 3.5
    assert "breaks off" in sound.note


def test_not_a_number_is_taken_as_silence(tmp_path: Path) -> None:
    path = tmp_path / "nan.wav"
    samples = tone()
    samples[100:200] = np.nan
    soundfile.write(path, samples, RATE, subtype="FLOAT")
    sound = recording.load(path)
    assert np.isfinite(sound.mono).all()


def test_silence_is_known(tmp_path: Path) -> None:
    path = tmp_path / "silent.wav"
    soundfile.write(path, np.zeros((RATE, 1), np.float32), RATE)
    assert recording.load(path).silent


def test_a_channel_that_is_the_wrong_way_round_is_turned(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    sound = tone(2.0) + 0.02 * rng.normal(size=(2 * RATE, 2)).astype(np.float32)  # hiss is another on each side
    found = {}
    for name, right in (("straight.wav", 1), ("turned.wav", -1)):
        soundfile.write(tmp_path / name, sound * np.array([1, right], np.float32), RATE, subtype="FLOAT")
        found[name] = recording.load(tmp_path / name)
    straight, turned = found.values()
    assert straight.note == "" and turned.note.startswith("The two channels take each other away")
    assert np.allclose(turned.mono, straight.mono, atol=1e-6) and np.allclose(turned.peaks, straight.peaks)
    assert np.array_equal(turned.samples, straight.samples) and np.array_equal(turned.breadth, straight.breadth)


@pytest.mark.parametrize(
    "kind", ["one side alone", "two players", "a constant on both sides", "a wide sound over a bass"]
)
def test_channels_that_only_differ_are_left(tmp_path: Path, kind: str) -> None:
    left, right = tone(1.0)[:, 0], tone(1.0, hertz=330.0)[:, 0]
    if kind == "one side alone":
        right = right * 0
    elif kind == "a constant on both sides":
        left, right = left + 0.4, left - 0.4
    elif kind == "a wide sound over a bass":
        bass = 0.3 * tone(1.0, hertz=65.0)[:, 0]
        left, right = left + bass, bass - left
    soundfile.write(tmp_path / "t.wav", np.stack([left, right], axis=1), RATE, subtype="FLOAT")
    sound = recording.load(tmp_path / "t.wav")
    assert sound.note == "" and np.allclose(sound.samples[:, 0], left, atol=1e-6)


def test_cancel_and_progress(tmp_path: Path) -> None:
    shares: list[float] = []
    recording.load(FERRY, keep_samples=False, progress=shares.append)
    assert shares == sorted(shares)
    assert shares[-1] == pytest.approx(1.0)
    with pytest.raises(Cancelled):
        recording.load(FERRY, cancelled=lambda: True)


def test_long_recordings_are_mapped_from_disk(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(recording, "IN_MEMORY_LIMIT", 1000)
    path = tmp_path / "t.wav"
    soundfile.write(path, tone(3.0), RATE, subtype="FLOAT")
    sound = recording.load(path)
    assert isinstance(sound.samples, np.memmap)
    assert np.array_equal(sound.samples, tone(3.0))


def test_no_room_for_a_long_recording_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(recording, "IN_MEMORY_LIMIT", 1000)
    monkeypatch.setattr(recording.tempfile, "TemporaryFile", lambda prefix: open("/dev/full", "r+b"))
    path = tmp_path / "t.wav"
    soundfile.write(path, tone(3.0), RATE, subtype="FLOAT")
    with pytest.raises(AudioError, match=r"wants room for a while, but the disk of .* is full\. Make room there"):
        recording.load(path)


def test_hash_is_of_the_content(tmp_path: Path) -> None:
    a, b = tmp_path / "a.bin", tmp_path / "b.bin"
    a.write_bytes(b"x" * 3_000_000)
    b.write_bytes(b"x" * 3_000_000)
    assert content_hash(a) == content_hash(b)
    assert open_stream(FERRY).rate == 44100


def wav_header(rate: int, channels: int = 1) -> bytes:
    sound = np.random.default_rng(1).integers(-9000, 9000, 20000).astype("<i2").tobytes()
    fmt = struct.pack("<IHHIIHH", 16, 1, channels, rate, rate * 2 * channels, 2 * channels, 16)
    return (
        b"RIFF"
        + struct.pack("<I", len(sound) + 36)
        + b"WAVEfmt "
        + fmt
        + b"data"
        + struct.pack("<I", len(sound))
        + sound
    )


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("slow.wav", wav_header(1), "1 samples a second"),
        ("wide.wav", wav_header(44100, 1024), "channels"),
        ("list.m3u8", b"#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\n%s\n#EXT-X-ENDLIST\n", "not a recording"),
        ("live.ogg", b"#EXTM3U\n#EXT-X-TARGETDURATION:5\n#EXTINF:5,\n%s\n", "not a recording"),
        ("list.ffconcat", b"ffconcat version 1.0\nfile '%s'\n", "not a recording"),
        ("address.sdp", b"v=0\no=- 0 0 IN IP4 127.0.0.1\ns=t\nc=IN IP4 127.0.0.1\nt=0 0\nm=audio 5004 RTP/AVP 0\n", "not a rec"),
        ("noise.raw", bytes(range(256)) * 200, "not a recording"),
    ],
)  # fmt: skip
def test_what_is_out_of_bounds_or_points_elsewhere_is_refused(
    tmp_path: Path, name: str, data: bytes, words: str
) -> None:
    path = tmp_path / name
    path.write_bytes(data.replace(b"%s", str(FERRY).encode()))
    with pytest.raises(AudioError, match=words):
        recording.load(path)


def test_pipes_and_devices_are_refused_at_once(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe.ogg"
    os.mkfifo(pipe)
    for path in (pipe, Path("/dev/zero")):
        with pytest.raises(AudioError, match="only files"):
            recording.load(path)


@pytest.mark.parametrize("stem", ["Live: take 2", "file:x", "100%s", "two\nlines", os.fsdecode(b"tape\xff\xe9")])
@pytest.mark.parametrize("suffix", [".ogg", ".m4a"])
def test_odd_names_are_names(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, stem: str, suffix: str) -> None:
    """A colon makes no address, also where the path is relative; bytes that are no characters are kept in a project."""
    monkeypatch.chdir(tmp_path)
    if suffix == ".ogg":
        soundfile.write(tmp_path / "t.ogg", tone(), RATE)
    else:
        write_av(tmp_path / "t.m4a", "aac", tone(), RATE)
    path = Path(f"{stem}{suffix}")
    (tmp_path / f"t{suffix}").rename(path)
    sound = recording.load(path)
    assert sound.duration == pytest.approx(1.0, abs=0.1)
    song = make_song(recording=str(path.absolute()))
    saved = tmp_path / "s.ychronos"
    project.save(replace(song, title=title_of(path)), saved)
    assert project.load(saved).recording.path == str(path.absolute())


def test_samples_of_any_size_are_brought_into_bounds(tmp_path: Path) -> None:
    path = tmp_path / "huge.wav"
    data = tone(6.0, channels=1)
    data[::7] = 1e30
    data[1::7], data[2::7] = np.nan, -np.inf
    soundfile.write(path, data, RATE, "FLOAT")
    sound = recording.load(path)
    assert np.isfinite(sound.mono).all() and np.abs(sound.mono).max() < 4
    assert np.abs(sound.peaks).max() <= 1
    song, _ = pipeline.analyse(sound, "Huge", cache=None)
    project.loads(project.dumps(song))


def test_a_file_that_is_still_written_has_no_identity(tmp_path: Path) -> None:
    path = tmp_path / "t.wav"
    soundfile.write(path, tone(3.0), RATE)

    def grow(_: float) -> None:
        with open(path, "ab") as file:
            file.write(b"more")

    sound = recording.load(path, progress=grow)
    assert sound.sha256 == ""
    assert "still being written" in sound.note
    assert recording.load(path).sha256 != ""
    gone = recording.load(path, progress=lambda _: path.unlink(missing_ok=True))
    assert gone.sha256 == "" and "went away" in gone.note


def test_links_that_lead_back_to_themselves(tmp_path: Path) -> None:
    loop = tmp_path / "a.ogg"
    loop.symlink_to(loop)
    with pytest.raises(AudioError, match="cannot be read"):
        recording.load(loop)


@pytest.mark.parametrize("kind", [b"RIFF", b"FORM"])
def test_a_chunk_longer_than_its_file_makes_no_room_for_itself(tmp_path: Path, kind: bytes) -> None:
    order = "<" if kind == b"RIFF" else ">"
    names = (b"WAVE", b"fmt ") if kind == b"RIFF" else (b"AIFF", b"COMM")
    body = names[1] + struct.pack(order + "I", 16) + bytes(16)
    honest, huge = (body + b"LIST" + struct.pack(order + "I", n) + bytes(64) for n in (64, 1 << 31))
    for name, content, over in (("honest", honest, False), ("huge", huge, True)):
        path = tmp_path / f"{name}.wav"
        path.write_bytes(kind + struct.pack(order + "I", len(content) + 4) + names[0] + content)
        assert overruns(path) == over
        with pytest.raises(AudioError, match="not a recording I can read"):
            open_stream(path)
    soundfile.write(tmp_path / "sound.wav", tone(), RATE)
    assert not overruns(tmp_path / "sound.wav")
