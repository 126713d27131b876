"""Speed by sound, on sounds that the analysis does not share: right within 1 %, wrong and yet sure, time."""

import time

import numpy as np
import pytest

from keen_coil.core.sound.asked import read_bounds
from keen_coil.core.sound.listen import listen

from .sounds import TROUBLES, heard

SOUNDS = 300


@pytest.mark.parametrize("snr_db", [10, 0, -5, -10])
def test_right_and_wrong_by_level_over_the_noise(snr_db):
    right = wrong_and_sure = sure = covered = 0
    for seed in range(SOUNDS):
        sound = heard(10_000 + seed, snr_db)
        answer, _ = listen(sound.samples, sound.rate, read_bounds(sound.blades, sound.poles, sound.hz))
        good = answer.rpm is not None and abs(answer.rpm[1] / sound.rpm - 1) < 0.01
        right += good
        sure += answer.state == "normal"
        wrong_and_sure += answer.state == "normal" and not good
        covered += good and answer.rpm[0] <= sound.rpm <= answer.rpm[2]
    print(
        f"\nspeed by sound at {snr_db:+d} dB, {SOUNDS} sounds: within 1 % {100 * right / SOUNDS:.1f} %, sure"
        f" {100 * sure / SOUNDS:.1f} %, wrong and sure {100 * wrong_and_sure / SOUNDS:.2f} %,"
        f" inside its interval {100 * covered / max(right, 1):.1f} %"
    )


def test_with_the_fan_off():
    answers = [
        listen(s.samples, s.rate, read_bounds(s.blades, s.poles, s.hz))[0]
        for s in (heard(20_000 + seed, 5, fan_runs=False) for seed in range(SOUNDS))
    ]
    sure = sum(answer.state == "normal" for answer in answers)
    print(f"\nfan off, {SOUNDS} sounds: taken for a sure speed {100 * sure / SOUNDS:.2f} %")


def test_noise_by_kind():
    for trouble in TROUBLES:
        sounds = [heard(30_000 + seed, 5, trouble=trouble) for seed in range(60)]
        named = [listen(s.samples, s.rate, read_bounds(s.blades, s.poles, s.hz))[0].noise for s in sounds]
        others = {name: named.count(name) for name in sorted(set(named) - {trouble})}
        print(f"\nnoise {trouble}: named so {100 * named.count(trouble) / len(named):.0f} %, else {others}")


def test_ten_seconds_at_48_khz(benchmark):
    samples = np.random.default_rng(1).normal(size=480_000) * 0.1
    t = np.arange(480_000) / 48_000
    samples += sum(np.sin(2 * np.pi * 53.75 * k * t) / k for k in range(1, 8))
    benchmark(lambda: listen(samples, 48_000, read_bounds(3, 6)))
    began = time.perf_counter()
    listen(samples, 48_000, read_bounds(3, 6))
    print(f"\n10 s at 48 kHz: {1000 * (time.perf_counter() - began):.0f} ms")
