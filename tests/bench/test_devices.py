"""The bench is a camera, not a slide show: it moves, it is noisy, it warms up, and it knows the truth."""

import cv2
import numpy as np
import pytest

from cartouche.bench.camera import Camera, Grain, Light, Lying, Pose, illumination, photograph
from cartouche.bench.desks import desk
from cartouche.bench.devices import DEVICES, BenchDevice, settled
from cartouche.bench.pages import ROUND_S, work_at
from cartouche.bench.papers import PX_PER_MM, contour_sheet, profile_mm
from cartouche.core.pictures import Size
from cartouche.core.straighten.geometry import transform


def test_a_device_warms_up_before_its_first_picture_and_delays_each() -> None:
    device = DEVICES["document-camera"]()
    assert device.picture(100.0) is None
    assert device.picture(100.0 + device.warm_up_s - 0.01) is None
    frame = device.picture(100.5)
    assert frame is not None
    assert frame.captured_s == pytest.approx(100.5 - device.delay_s)
    assert frame.size == device.size


def test_nothing_is_drawn_for_a_device_that_nobody_asks() -> None:
    def refuse() -> None:
        raise AssertionError("made too early")

    BenchDevice(refuse, Size(64, 48))  # type: ignore[arg-type]


@pytest.mark.parametrize("name", DEVICES)
def test_two_pictures_of_one_moment_differ_by_noise_alone(name: str) -> None:
    device = DEVICES[name]()
    device.picture(0.0)
    first, second = (np.array(device.picture(3.0).y, np.int16) for _ in range(2))  # type: ignore[union-attr]
    assert 0.5 < np.abs(first - second).mean() < 5
    assert abs(float(first.mean()) - float(second.mean())) < 0.3


def test_grain_has_the_strength_that_was_asked() -> None:
    plane = np.full((200, 300), 120, np.uint8)
    Grain(Size(300, 200), 3.0).add(plane, 5)
    assert float(plane.std()) == pytest.approx(3.0, abs=0.3)
    assert float(plane.mean()) == pytest.approx(120, abs=0.5)


def test_the_hand_draws_the_profile_as_time_goes_on_and_starts_anew() -> None:
    line = profile_mm()
    drawn = [work_at(line, moment).drawn for moment in np.arange(0, ROUND_S - 22, 1.0)]
    assert drawn == sorted(drawn)
    assert drawn[0] > 1
    assert work_at(line, 30.0).tip_mm is None
    assert work_at(line, ROUND_S + 3.0) == work_at(line, 3.0)


def test_ink_appears_where_the_pen_was() -> None:
    device = DEVICES["document-camera"]()
    early, late = (np.array(settled(device, moment).y, np.int16) for moment in (1.0, 30.0))
    view = device._view
    points = transform(view._matrix, contour_sheet().profile_mm).astype(int)  # type: ignore[union-attr]
    inked = [late[y - 1 : y + 2, x - 1 : x + 2].min() for x, y in points[::6]]
    assert float(np.mean(inked)) < 100
    assert early[points[-1, 1], points[-1, 0]] > 150


def test_the_presenter_moves_and_blinks() -> None:
    device = DEVICES["face-webcam"]()
    pictures = [cv2.GaussianBlur(settled(device, moment).y, (0, 0), 3).astype(int) for moment in (1.0, 2.2, 3.7)]
    assert np.abs(pictures[0] - pictures[1]).max() > 25
    eyes = (slice(300, 335), slice(570, 720))
    assert np.abs(pictures[1][eyes] - pictures[2][eyes]).max() > 25


def test_light_falls_off_from_the_lamp() -> None:
    camera = Camera(Size(640, 360), Pose((0, -100, -560)), light=Light(lamp=(-300, 0, -500)))
    light = illumination(camera)
    assert light[180, 120] > 1.15 * light[180, 520]


def test_a_mirror_in_the_rig_mirrors_the_picture() -> None:
    plain = Camera(Size(640, 360), Pose((0, -300, -380)), noise=0, light=Light(lamp=(0, -200, -600)))
    mirrored = Camera(plain.size, plain.pose, noise=0, mirrors=1, light=plain.light)
    a, b = (photograph(camera, desk("black"), contour_sheet(), Lying()).y for camera in (plain, mirrored))
    assert np.abs(a.astype(int) - b[:, ::-1]).mean() < 2


def test_the_sheet_is_drawn_at_300_dpi() -> None:
    height, width = contour_sheet().picture.shape[:2]
    assert (width, height) == (round(210 * PX_PER_MM), round(297 * PX_PER_MM))


def run(device: BenchDevice, since_s: float, seconds: float) -> list[object]:
    return [device.picture(since_s + n / 30) for n in range(round(30 * seconds))]


def test_it_falls_asleep_after_a_while() -> None:
    device = DEVICES["face-webcam"]()
    device.picture(0.0)
    device.provoke("asleep in ten seconds")
    assert all(run(device, 1.0, 1.0))
    assert not any(run(device, 12.0, 1.0))
    device.provoke(None)
    assert device.picture(20.0) is not None


def test_the_long_warm_up_can_be_shortened() -> None:
    device = DEVICES["face-webcam"](2.0)
    device.provoke("warming up")
    assert device.picture(0.0) is None
    assert device.picture(1.9) is None
    assert device.picture(2.1) is not None


def test_a_low_battery_and_a_wrong_lens_are_told_by_the_device_and_mended() -> None:
    device = DEVICES["document-camera"]()
    device.provoke("low battery")
    assert device.battery is not None
    assert device.battery.is_low
    device.provoke("wrong lens")
    assert (device.battery, device.facing) == (None, "front")
    seen = settled(device, 1.0)
    device.provoke(None)
    assert device.facing is None
    assert np.abs(seen.y.astype(int) - settled(device, 1.0).y).mean() > 20  # it looked at something else


@pytest.mark.parametrize("fault", [None, "half the frames", "stuck", "black"])
def test_it_comes_in_the_size_that_is_asked(fault: str | None) -> None:
    device = DEVICES["document-camera"]()
    smaller = device.offered[0]
    assert (smaller, device.offered[1]) == (Size(1280, 720), Size(1920, 1080))
    device.picture(0.0)
    device.ask_size(smaller)
    device.provoke(fault)  # type: ignore[arg-type]
    device.picture(1.0)
    sizes = [frame.size for n in range(20) if (frame := device.picture(2.0 + n / 30))]
    assert set(sizes) == {smaller}
    assert len(sizes) == (10 if fault == "half the frames" else 20)
