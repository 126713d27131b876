"""Speed and noise by sound: the worked tones, what must never be heard as a speed, and what no file may do."""

import io
import json

import numpy as np
import pytest
from bench.sounds import TROUBLES, heard
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.io import wavfile
from typer.testing import CliRunner

from keen_coil.cli.commands import app
from keen_coil.core.errors import InvalidField
from keen_coil.core.sound.asked import read_bounds
from keen_coil.core.sound.listen import listen
from keen_coil.formats.wav import Recording, read_wav, write_wav

RATE = 8000


def tones(*hz_db, seconds=10.0, noise=-30.0, seed=1):
    """Lines at levels in dB over hiss at another."""
    t = np.arange(int(RATE * seconds)) / RATE
    chance = np.random.default_rng(seed)
    found = 10 ** (noise / 20) * chance.normal(size=len(t))
    for hz, db in hz_db:
        found = found + 10 ** (db / 20) * np.sin(2 * np.pi * hz * t + chance.uniform(0, 6))
    return 0.3 * found / np.abs(found).max()


def comb(hz, count=6, fall=4.0):
    """A tone with harmonics."""
    return [(k * hz, -fall * k) for k in range(1, count + 1)]


@pytest.mark.parametrize(
    ("blades", "poles", "rpm"), [(3, 6, 1075), (4, 8, 828), (4, 6, 1100), (5, 4, 1625), (44, 6, 1075)]
)
def test_the_blade_tone_gives_the_speed_with_its_interval(blades, poles, rpm):
    tone = blades * rpm / 60
    answer, _ = listen(tones(*comb(tone), (120, -6), (240, -12)), RATE, read_bounds(blades, poles))
    low, middle, high = answer.rpm
    assert low <= rpm <= high
    assert middle == pytest.approx(rpm, abs=2)
    assert answer.state == "normal"
    assert any(row.what == "blade" and row.hz == pytest.approx(tone, abs=0.3) for row in answer.tones)
    assert any(row.what == "line" and row.hz == pytest.approx(120, abs=0.2) for row in answer.tones)


@given(
    poles=st.sampled_from([4, 6, 8]), blades=st.integers(2, 6), hz=st.sampled_from([50, 60]), seed=st.integers(0, 99)
)
@settings(max_examples=8)
def test_hum_or_noise_alone_is_never_a_speed(poles, blades, hz, seed):
    drifted = hz * (1 + (seed - 50) / 50000)
    for lines in ([(2 * m * drifted, -4 * m) for m in range(1, 6)], [(m * drifted, -3 * m) for m in range(1, 9)], []):
        answer, _ = listen(tones(*lines, seed=seed), RATE, read_bounds(blades, poles, hz))
        assert answer.state != "normal"


@pytest.mark.parametrize("seed", range(0, 24, 6))
def test_with_the_fan_off_nothing_beside_it_is_taken_for_it(seed):
    sound = heard(seed, 5, fan_runs=False)
    answer, _ = listen(sound.samples, sound.rate, read_bounds(sound.blades, sound.poles, sound.hz))
    assert answer.state != "normal"


@pytest.mark.parametrize("seed", range(6))
def test_a_speed_that_is_sure_is_right(seed):
    sound = heard(100 + seed, (-5, 0, 5)[seed % 3])
    answer, _ = listen(sound.samples, sound.rate, read_bounds(sound.blades, sound.poles, sound.hz))
    if answer.state == "normal":
        assert answer.rpm[1] == pytest.approx(sound.rpm, rel=0.01)
        assert not answer.do
    else:
        assert answer.do


def test_two_fans_as_loud_are_suspect_and_both_speeds_are_said():
    answer, _ = listen(tones(*comb(53.75), *comb(51.25)), RATE, read_bounds(3, 6))
    assert answer.state == "suspect"
    assert {round(answer.rpm[1]), *(round(rpm) for rpm in answer.other_rpm)} >= {1075, 1025}


@pytest.mark.parametrize("trouble", TROUBLES)
def test_what_is_wrong_with_it_is_heard(trouble):
    right = 0
    for seed in range(3):
        sound = heard(700 + seed, 8, trouble=trouble)
        answer, _ = listen(sound.samples, sound.rate, read_bounds(sound.blades, sound.poles, sound.hz))
        right += answer.noise == trouble
    assert right >= 2


@pytest.mark.parametrize("dtype", ["uint8", "int16", "int32", "float32"])
@pytest.mark.parametrize("channels", [1, 2])
def test_any_usual_wav_is_the_same_sound(dtype, channels):
    samples = tones(*comb(53.75), noise=-20)
    both = np.stack([samples, -samples], axis=1) if channels == 2 else samples
    if dtype == "float32":
        data = both.astype(np.float32)
    else:
        most = np.iinfo(dtype).max
        data = (both * 127 + 128).astype(np.uint8) if dtype == "uint8" else (both * most).astype(dtype)
    file = io.BytesIO()
    wavfile.write(file, RATE, data)
    answer, _ = listen(*read_wav(file.getvalue()), read_bounds(3, 6))
    assert answer.rpm[1] == pytest.approx(1075, abs=2)


@given(
    data=st.one_of(
        st.binary(max_size=200), st.builds(lambda cut: write_wav(Recording(tones(), RATE))[:cut], st.integers(0, 400))
    )
)
def test_what_is_no_recording_is_refused_by_name(data):
    with pytest.raises(InvalidField) as refused:
        read_wav(data)
    assert refused.value.errors[0].path == "recording"


@given(
    blades=st.integers(2, 80),
    poles=st.sampled_from(range(2, 26, 2)),
    rate=st.sampled_from([4000, 8000, 44100]),
    seconds=st.floats(2, 4),
    hz=st.floats(5, 1500),
    lines=st.booleans(),
)
@settings(max_examples=15)
def test_any_sound_with_any_blades_and_poles_has_an_answer(blades, poles, rate, seconds, hz, lines):
    t = np.arange(int(rate * seconds)) / rate
    sound = sum(np.sin(2 * np.pi * k * hz * t) for k in range(1, 9)) if lines else np.sign(np.sin(2 * np.pi * hz * t))
    answer, _ = listen(sound, rate, read_bounds(blades, poles))
    assert answer.rpm is None or 0 < answer.rpm[0] <= answer.rpm[1] <= answer.rpm[2]


def test_silence_is_unjudged_and_says_what_to_do():
    answer, _ = listen(np.zeros(10 * RATE), RATE, read_bounds(3, 6))
    assert (answer.rpm, answer.state) == (None, "unjudged")
    assert answer.do


def test_the_command_answers_in_json_and_refuses_each_field(tmp_path):
    path = tmp_path / "fan.wav"
    path.write_bytes(write_wav(Recording(tones(*comb(53.75)), RATE)))
    run = CliRunner().invoke(app, ["listen", str(path), "--blades", "3", "--poles", "6", "--json"])
    assert run.exit_code == 0, run.output
    answer = json.loads(run.output)
    assert set(answer) >= {"rpm", "state", "because", "noise", "tones"}
    assert answer["rpm"][1] == pytest.approx(1075, abs=2)
    run = CliRunner().invoke(app, ["listen", str(path), "--blades", "no", "--poles", "7", "--hz", "55"])
    assert run.exit_code == 2
    assert [f"{path}: {name}: got" in run.stderr for name in ("blades", "poles", "hz")] == [True] * 3
