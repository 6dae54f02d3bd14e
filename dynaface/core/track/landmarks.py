"""Face landmarks in pictures, by the landmark library's model (478 points with irises, 52 learned shape scores)."""

import os
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, nullcontext
from dataclasses import dataclass
from types import TracebackType

import numpy as np
from numpy.typing import NDArray

from dynaface.core.shapes.standard import SHAPES

POINTS = 478


@dataclass(frozen=True)
class Landmarks:
    """points: (478, 2) pixels; scores: (52,) the library's own learned score of each standard shape, 0 for one it does not know."""

    points: NDArray[np.float32]
    scores: NDArray[np.float32]


@contextmanager
def _quiet() -> Iterator[None]:
    """Keeps the library's start-up chatter, which no setting of its turns off, out of the log."""
    kept = os.dup(2)
    nowhere = os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nowhere, 2)
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)


class LandmarkFinder:
    """Finds one face a picture. Close it, or use it with `with`.

    It keeps track of the face from picture to picture, unless `still` says that they do not follow each other.
    """

    def __init__(self, model: bytes, rate: float = 30.0, still: bool = False) -> None:
        # The library takes long to import: only those who track pay for it.
        import mediapipe as mp
        from mediapipe.tasks.python import BaseOptions, vision

        self._mp = mp
        self._rate = rate
        self._count = 0
        self._still = still
        options = vision.FaceLandmarkerOptions(
            base_options=BaseOptions(model_asset_buffer=model),
            running_mode=vision.RunningMode.IMAGE if still else vision.RunningMode.VIDEO,
            output_face_blendshapes=True,
            num_faces=1,
        )
        with _quiet():
            self._finder = vision.FaceLandmarker.create_from_options(options)

    def find(self, picture: NDArray[np.uint8]) -> Landmarks | None:
        """Landmarks of the next picture (height, width, 3) RGB, or None where no face is seen."""
        image = self._mp.Image(image_format=self._mp.ImageFormat.SRGB, data=np.ascontiguousarray(picture))
        with _quiet() if self._count == 0 else nullcontext():
            if self._still:
                found = self._finder.detect(image)
            else:
                found = self._finder.detect_for_video(image, round(self._count * 1000 / self._rate))
        self._count += 1
        if not found.face_landmarks:
            return None
        height, width = picture.shape[:2]
        points = np.array([(p.x * width, p.y * height) for p in found.face_landmarks[0]], np.float32)
        by_name = {c.category_name: c.score for c in found.face_blendshapes[0]}
        return Landmarks(points, np.array([by_name.get(s, 0.0) for s in SHAPES], np.float32))

    def all(self, pictures: Iterable[NDArray[np.uint8]]) -> Iterator[Landmarks | None]:
        """Landmarks of each picture (height, width, 3), RGB 0..255; None where no face is found."""
        return (self.find(p) for p in pictures)

    def close(self) -> None:
        """Gives the model back."""
        self._finder.close()

    def keep(self) -> None:
        """Leaves the model to the end of the process; the library's finaliser would complain when it comes that late."""
        self._finder.close = lambda: None

    def __enter__(self) -> "LandmarkFinder":
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()
