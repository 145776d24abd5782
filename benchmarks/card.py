"""What the set-up card tells against the truth: millimetres, degrees, focal length, lens, mirror; and how long it takes."""

import json
import sys
import time

import cv2
import numpy as np

from cartouche.bench.camera import Camera, Grain, Light, Lying, Pose, photograph, true_corners
from cartouche.bench.desks import desk
from cartouche.bench.laid import card_paper
from cartouche.bench.poses import Scene, bulged
from cartouche.core.pictures import Size
from cartouche.core.straighten.card import layout, read_card
from cartouche.core.straighten.geometry import transform
from cartouche.core.straighten.lens import undistort

SIZE = Size(1920, 1080)


def view(random: np.random.Generator, number: int) -> tuple[Scene, Camera, float, float]:
    """A card under a random camera; every third lens bulges. Also its distortion and its tilt in degrees."""
    paper = card_paper("A4" if number % 2 else "Letter")
    while True:
        tilt, around = np.radians(random.uniform(0, 55)), random.uniform(0, 2 * np.pi)
        focal = random.uniform(0.75, 1.2)
        away = focal * 297 / random.uniform(0.3, 0.5)
        position = (away * np.sin(tilt) * np.cos(around), away * np.sin(tilt) * np.sin(around) - 1e-3, -away * np.cos(tilt))
        light = Light(exposure=random.uniform(0.8, 1.15))
        camera = Camera(
            SIZE, Pose(position, roll_deg=random.uniform(0, 360)), focal, int(random.integers(2)), random.uniform(0, 1.2), 2.5, light
        )
        lying = Lying(random.uniform(-10, 10), random.uniform(-10, 10), random.uniform(0, 360))
        corners = true_corners(camera, paper, lying)
        if (corners > 40).all() and (corners < np.array(SIZE) - 40).all():
            break
    frame = photograph(camera, desk(("wood", "cloth", "black", "pale")[number % 4]), paper, lying, supersample=1)
    scene = Scene(frame, corners, camera.mirrors, ())
    distortion = float(random.uniform(-0.18, -0.02)) if number % 3 == 0 else 0.0
    scene = bulged(scene, distortion) if distortion else scene
    Grain(SIZE, 2.5).add(scene.frame.y, number)
    return scene, camera, distortion, float(np.degrees(tilt))


def main(count: int = 60) -> dict[str, object]:
    cv2.setNumThreads(1)
    random = np.random.default_rng(2)
    mm, degrees, focals, bends, times, mirrors, read = [], [], [], [], [], 0, 0
    for number in range(count):
        scene, camera, distortion, tilt = view(random, number)
        begun = time.perf_counter()
        told = read_card(scene.frame)
        times.append(time.perf_counter() - begun)
        if not told or scene.corners is None:
            continue
        read += 1
        mirrors += told.mirrored == bool(camera.mirrors % 2)
        straight = undistort(scene.corners, told.distortion, SIZE) if told.distortion else scene.corners
        on_card = transform(np.linalg.inv(told.to_px), straight)
        size = layout(told.paper).size
        truth = np.array([[0, 0], [size.width, 0], [size.width, size.height], [0, size.height]])
        mm.append(float(np.linalg.norm(on_card - truth, axis=1).mean()))
        degrees.append(abs(told.tilt_deg - tilt) if told.focal else np.nan)
        focals.append(abs(told.focal / camera.focal - 1) if told.focal else np.nan)
        bends.append(abs(told.distortion - distortion))
    return {
        "cards": count,
        "read": round(read / count, 4),
        "mirror_right": round(mirrors / max(read, 1), 4),
        "median_mm": round(float(np.median(mm)), 3),
        "worst_mm": round(float(np.max(mm)), 3),
        "median_deg": round(float(np.nanmedian(degrees)), 2),
        "focal_off": round(float(np.nanmedian(focals)), 4),
        "distortion_error": round(float(np.median(bends)), 4),
        "ms": round(1000 * float(np.median(times)), 1),
        "worst_ms": round(1000 * float(np.max(times)), 1),
    }


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
