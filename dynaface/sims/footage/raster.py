"""A small software renderer: depth-tested triangles with texture, smooth normals, a key and a fill light."""

import math

import numpy as np
from numba import njit


# fmt: off
@njit(cache=True, fastmath=True)
def draw(image, depth, screen, away, normal, place, tris, parts, uv, tri_uv, texture, eyes, eye_turns, iris, tint, key, key_colour, ambient):  # type: ignore[no-untyped-def]
    # fmt: on
    """image: (h, w, 3) float32 linear, written; depth: (h, w) of 1/z, written.

    screen: (v, 2) pixels; away: (v,) distance along the view; normal: (v, 3) and place: (v, 3) in camera space (x right,
    y up, z to the camera); eyes: (2, 3) centres and eye_turns: (2, 3) directions of look in camera space.
    """
    height, width = depth.shape
    size = texture.shape[0]
    half = key + np.array([0.0, 0.0, 1.0])
    half = half / np.sqrt((half**2).sum())
    for t in range(tris.shape[0]):
        i, j, k = tris[t, 0], tris[t, 1], tris[t, 2]
        x0, y0, x1, y1, x2, y2 = screen[i, 0], screen[i, 1], screen[j, 0], screen[j, 1], screen[k, 0], screen[k, 1]
        area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)
        part = parts[t]
        if abs(area) < 1e-9 or (area > 0 and part != 2):
            continue  # screen y runs down: what faces the camera turns the other way
        xa, xb = max(math.floor(min(x0, x1, x2)), 0), min(math.ceil(max(x0, x1, x2)) + 1, width)
        ya, yb = max(math.floor(min(y0, y1, y2)), 0), min(math.ceil(max(y0, y1, y2)) + 1, height)
        w0, w1, w2 = 1.0 / away[i], 1.0 / away[j], 1.0 / away[k]
        for y in range(ya, yb):
            for x in range(xa, xb):
                px, py = x + 0.5, y + 0.5
                b = ((px - x0) * (y2 - y0) - (x2 - x0) * (py - y0)) / area
                c = ((x1 - x0) * (py - y0) - (px - x0) * (y1 - y0)) / area
                a = 1.0 - b - c
                if a < 0 or b < 0 or c < 0:
                    continue
                near = a * w0 + b * w1 + c * w2
                if near <= depth[y, x]:
                    continue
                a, b, c = a * w0 / near, b * w1 / near, c * w2 / near
                nx = a * normal[i, 0] + b * normal[j, 0] + c * normal[k, 0]
                ny = a * normal[i, 1] + b * normal[j, 1] + c * normal[k, 1]
                nz = a * normal[i, 2] + b * normal[j, 2] + c * normal[k, 2]
                length = math.sqrt(nx * nx + ny * ny + nz * nz) + 1e-12
                nx, ny, nz = nx / length, ny / length, nz / length
                gloss, shine = 0.06, 14.0
                if part == 0:
                    u = (a * uv[tri_uv[t, 0], 0] + b * uv[tri_uv[t, 1], 0] + c * uv[tri_uv[t, 2], 0]) * size - 0.5
                    v = (
                        1.0 - (a * uv[tri_uv[t, 0], 1] + b * uv[tri_uv[t, 1], 1] + c * uv[tri_uv[t, 2], 1])
                    ) * size - 0.5
                    ux, vy = min(max(int(u), 0), size - 2), min(max(int(v), 0), size - 2)
                    fu, fv = min(max(u - ux, 0.0), 1.0), min(max(v - vy, 0.0), 1.0)
                    r = g = bl = 0.0
                    for dy in range(2):
                        for dx in range(2):
                            part_weight = (fu if dx else 1 - fu) * (fv if dy else 1 - fv)
                            r += part_weight * texture[vy + dy, ux + dx, 0]
                            g += part_weight * texture[vy + dy, ux + dx, 1]
                            bl += part_weight * texture[vy + dy, ux + dx, 2]
                elif part == 1:
                    side = (
                        0
                        if (a * place[i, 0] + b * place[j, 0] + c * place[k, 0]) * (eyes[0, 0] - eyes[1, 0])
                        > (eyes[0] + eyes[1])[0] * 0.5 * (eyes[0, 0] - eyes[1, 0])
                        else 1
                    )
                    dx_ = a * place[i, 0] + b * place[j, 0] + c * place[k, 0] - eyes[side, 0]
                    dy_ = a * place[i, 1] + b * place[j, 1] + c * place[k, 1] - eyes[side, 1]
                    dz_ = a * place[i, 2] + b * place[j, 2] + c * place[k, 2] - eyes[side, 2]
                    n = math.sqrt(dx_ * dx_ + dy_ * dy_ + dz_ * dz_) + 1e-12
                    cosine = (dx_ * eye_turns[side, 0] + dy_ * eye_turns[side, 1] + dz_ * eye_turns[side, 2]) / n
                    angle = math.degrees(math.acos(min(max(cosine, -1.0), 1.0)))
                    white = 1.0 / (1.0 + math.exp(-(angle - iris) * 1.6))
                    pupil = 1.0 / (1.0 + math.exp((angle - iris * 0.40) * 2.0))
                    r = 0.66 * white + tint[0] * (1 - white)
                    g = 0.63 * white + tint[1] * (1 - white)
                    bl = 0.60 * white + tint[2] * (1 - white)
                    # Rays of the iris, about the look.
                    ray = 1 + 0.25 * (1 - white) * math.sin(9 * dx_ / n * 6.0) * math.cos(7 * dy_ / n * 6.0)
                    rim = 1 - 0.55 * math.exp(-(((angle - iris) / 2.4) ** 2))
                    r, g, bl = r * (1 - pupil) * ray * rim, g * (1 - pupil) * ray * rim, bl * (1 - pupil) * ray * rim
                    gloss, shine = 0.35, 260.0
                elif part == 2:
                    # Lashes are hairs: every other dot of a fixed grain.
                    if (x * 7 + y * 13) % 5 < 2:
                        continue
                    r = g = bl = 0.012
                    gloss = 0.0
                elif part == 3:
                    r, g, bl = 0.55, 0.50, 0.42
                    gloss = 0.2
                else:
                    r, g, bl = 0.36, 0.11, 0.11
                    gloss = 0.15
                depth[y, x] = near
                facing = nx * key[0] + ny * key[1] + nz * key[2]
                # Skin lets light round the corner a little.
                direct = max((facing + 0.25) / 1.25, 0.0)
                sky = ambient * (0.72 + 0.28 * ny) * (0.8 + 0.2 * nz)
                mirror = max(nx * half[0] + ny * half[1] + nz * half[2], 0.0) ** shine * gloss * max(facing, 0.0)
                if part >= 3:
                    sky *= 0.45
                    direct *= 0.45
                image[y, x, 0] = r * (direct * key_colour[0] + sky) + mirror
                image[y, x, 1] = g * (direct * key_colour[1] + sky) + mirror
                image[y, x, 2] = bl * (direct * key_colour[2] + sky) + mirror
