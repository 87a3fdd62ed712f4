"""What hangs together in a mask: px that touch, by a corner too, are one part."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from rushweed.core.ready import kernels


class Parts:
    """The connected parts of a bool mask (height, width), numbered in the order they begin row by row.
    `boxes` are left, top, right, bottom, int64 (n, 4), and `area` their px."""

    def __init__(self, mask: np.ndarray) -> None:
        self._shape = mask.shape
        loops = self._loops = kernels("rushweed.core.cut.kernels")
        if loops is not None:
            mask = np.ascontiguousarray(mask)
            count = loops.count_runs(mask)
            self._runs, self._part = np.empty((count, 3), np.int64), np.empty(count, np.int64)
            found = loops.find_parts(mask, self._runs, self._part)
            self.boxes, self.area = np.empty((found, 4), np.int64), np.zeros(found, np.int64)
            loops.sum_up(self._runs, self._part, self.boxes, self.area)
            return
        from scipy import ndimage  # late: it takes a third of a second to import

        self.labels, found = ndimage.label(mask, np.ones((3, 3), bool))
        boxes = [(s[1].start, s[0].start, s[1].stop, s[0].stop) for s in ndimage.find_objects(self.labels)]
        self.boxes = np.array(boxes, np.int64).reshape(-1, 4)
        self.area = np.bincount(self.labels.ravel(), minlength=found + 1)[1:]

    @cached_property
    def labels(self) -> np.ndarray:
        """The number of each px's part from 1 on, int32 (height, width), 0 where there is none."""
        labels = np.zeros(self._shape, np.int32)
        assert self._loops is not None  # else they are there already
        self._loops.paint(self._runs, self._part, labels)
        return labels
