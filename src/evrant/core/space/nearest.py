"""Compiled loops over outlines on the floor."""

import numpy as np

from evrant.core.base.compiled import Array, compiled


@compiled
def nearest_points(outlines: Array, gap: Array, first: Array, second: Array) -> None:
    """Of every two convex outlines (n, corners, 2) the least distance of a corner of one to an edge of the other
    (n, n), and the points on the first and on the second (n, n, 2)."""
    count, corners = outlines.shape[0], outlines.shape[1]
    for i in range(count):
        gap[i, i] = 0.0
        first[i, i] = second[i, i] = outlines[i, 0]
    for i in range(count):
        for j in range(i + 1, count):
            best = np.inf
            for turn in range(2):
                a, b = (i, j) if turn == 0 else (j, i)
                for k in range(corners):
                    px, py = outlines[a, k, 0], outlines[a, k, 1]
                    for m in range(corners):
                        n = m + 1 if m + 1 < corners else 0
                        qx, qy = outlines[b, m, 0], outlines[b, m, 1]
                        ex, ey = outlines[b, n, 0] - qx, outlines[b, n, 1] - qy
                        long = max(ex * ex + ey * ey, 1e-18)
                        t = min(max(((px - qx) * ex + (py - qy) * ey) / long, 0.0), 1.0)
                        x, y = qx + t * ex, qy + t * ey
                        far = (px - x) * (px - x) + (py - y) * (py - y)
                        if far < best:
                            best = far
                            one = first if turn == 0 else second
                            other = second if turn == 0 else first
                            one[i, j, 0], one[i, j, 1] = px, py
                            other[i, j, 0], other[i, j, 1] = x, y
            gap[i, j] = gap[j, i] = np.sqrt(best)
            for c in range(2):
                first[j, i, c], second[j, i, c] = second[i, j, c], first[i, j, c]
