"""The background of a picture: finding a plain one, and making it transparent."""

import numpy as np
from numpy.typing import NDArray

from tinfork.core.pictures.regions import Mask, find_regions

Picture = NDArray[np.uint8]

#: The least alpha of a pixel that counts as drawn.
DRAWN = 24
#: How far from the ground's colour (Euclid, 0 to 442) a pixel still belongs to it.
NEAR = 40.0
#: The least share of the border that one colour must hold to be a plain ground.
_PLAIN = 0.6


def _border(picture: Picture) -> NDArray[np.uint8]:
    return np.concatenate([picture[0], picture[-1], picture[:, 0], picture[:, -1]])


def ground_colour(picture: Picture) -> tuple[int, int, int] | None:
    """The colour of an opaque, plain ground: the border's commonest; None for a transparent or mixed border."""
    border = _border(picture)
    if (border[:, 3] < 250).mean() > 0.05:
        return None
    coarse = border[:, :3] >> 4
    keys = (coarse[:, 0].astype(np.int64) << 8) | (coarse[:, 1].astype(np.int64) << 4) | coarse[:, 2]
    common = border[keys == np.bincount(keys).argmax(), :3]
    colour = np.median(common, axis=0)
    near = np.linalg.norm(border[:, :3] - colour, axis=1) < NEAR
    return (int(colour[0]), int(colour[1]), int(colour[2])) if near.mean() >= _PLAIN else None


def _from_ground(picture: Picture, ground: tuple[int, int, int]) -> NDArray[np.float32]:
    apart = picture[:, :, :3].astype(np.float32) - np.array(ground, dtype=np.float32)
    distances: NDArray[np.float32] = np.sqrt((apart**2).sum(axis=2))
    return distances


def drawn_mask(picture: Picture) -> Mask:
    """The pixels that are drawn: not transparent, and not of a plain ground that reaches the border."""
    ground = ground_colour(picture)
    if ground is None:
        mask: Mask = picture[:, :, 3] >= DRAWN
        return mask
    return ~_open_ground(_from_ground(picture, ground) < NEAR)


def _open_ground(like_ground: Mask) -> Mask:
    """The region of the ground's colour that reaches the border; teeth as white as the paper are not in it."""
    regions = find_regions(like_ground)
    return regions.mask_of(regions.touching_edge())


def widened(values: NDArray[np.float32], by: int) -> NDArray[np.float32]:
    """The largest value within `by` pixels, along both axes."""
    out = values
    for axis in (0, 1):
        steps = [out]
        for away in range(1, by + 1):
            for step in (away, -away):
                moved = np.roll(out, step, axis=axis)
                steps.append(moved)
        out = np.maximum.reduce(steps)
    return out


def clear_ground(picture: Picture) -> Picture:
    """The picture with its plain ground transparent, edges kept soft; unchanged where there is no plain ground.

    Edge pixels are mixtures of ground and drawing: how far they are from the ground, against the farthest colour
    near them, is their alpha, and the ground is taken out of their colour (compositing after Porter & Duff 1984).
    """
    ground = ground_colour(picture)
    if ground is None:
        return picture
    far = _from_ground(picture, ground)
    outside = _open_ground(far < NEAR)
    near_outside = widened(outside.astype(np.float32), 2) > 0
    share = np.clip(far / np.maximum(widened(far, 2), NEAR), 0, 1)
    # Just outside the edge the same mixture goes on; further out everything is ground, noise of compression too.
    alpha = np.where(near_outside, share, 1.0)
    by_the_edge = widened((~outside).astype(np.float32), 2) > 0
    alpha = np.where(outside & ((far < NEAR / 4) | ~by_the_edge), 0.0, alpha)
    behind = np.array(ground, dtype=np.float32)
    own = (picture[:, :, :3] - (1 - alpha[..., None]) * behind) / np.maximum(alpha[..., None], 1 / 255)
    out = np.empty_like(picture)
    out[:, :, :3] = np.clip(np.rint(own), 0, 255)
    out[:, :, 3] = np.rint(alpha * picture[:, :, 3])
    return out
