"""What the bench's devices cost together, at 1280x720 and 30 frames/s each."""

import json
import sys
import time
from dataclasses import replace

import cv2

from cartouche.bench.devices import CLIP_MIRROR, DOCUMENT_CAMERA, sheet_view
from cartouche.bench.presenter import Presenter
from cartouche.core.pictures import Size

PICTURES = 300
HD = Size(1280, 720)


def main(pictures: int = PICTURES) -> dict[str, float]:
    cv2.setNumThreads(1)
    views = {
        "document_camera_ms": sheet_view(replace(DOCUMENT_CAMERA, size=HD)),
        "clip_mirror_ms": sheet_view(replace(CLIP_MIRROR, size=HD)),
        "face_webcam_ms": Presenter(HD),
    }
    spent = dict.fromkeys(views, 0.0)
    for number in range(pictures):
        for name, view in views.items():
            begun = time.thread_time()
            view.picture(number / 30, 0.0)
            spent[name] += time.thread_time() - begun
    costs = {name: round(1000 * seconds / pictures, 2) for name, seconds in spent.items()}
    return {"core_share": round(30 * sum(spent.values()) / pictures, 3), **costs}


if __name__ == "__main__":
    print(json.dumps(main(*(int(value) for value in sys.argv[1:]))))
