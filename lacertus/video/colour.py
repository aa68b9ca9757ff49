"""High dynamic range → ordinary: a look-up table from BT.2100 signals to BT.709.

Phones film in HLG or PQ with wide primaries. A browser shows such pictures pale or not at all, so the
review copy is brought to ordinary colour: what is up to reference white keeps its brightness, what is
above is pressed together. The original keeps all.
"""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

Transfer = Literal["hlg", "pq"]
Colours = NDArray[np.float64]

LUT_SIZE = 33
PEAK_NITS = 1000.0
WHITE_NITS = 203.0
"""Nominal peak of HLG, and reference white of both (ITU-R BT.2408)."""
KNEE = 0.75
"""Brightness, as a share of ordinary white, from which highlights are pressed together. A convention."""
TO_709 = np.array([[1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083], [-0.0182, -0.1006, 1.1187]])
"""Linear BT.2020 → BT.709 primaries (ITU-R BT.2087)."""
LUMA_2020 = np.array([0.2627, 0.6780, 0.0593])


def hlg_nits(signal: Colours) -> Colours:
    """HLG signal (0–1, last axis RGB) → light of the display in cd/m²: inverse OETF and OOTF of ITU-R BT.2100."""
    a, b, c = 0.17883277, 0.28466892, 0.55991073
    scene = np.where(signal <= 0.5, signal**2 / 3, (np.exp((signal - c) / a) + b) / 12)
    luma = scene @ LUMA_2020
    return np.asarray(PEAK_NITS * scene * np.maximum(luma, 1e-9)[..., None] ** 0.2)


def pq_nits(signal: Colours) -> Colours:
    """PQ signal (0–1) → light in cd/m² (SMPTE ST 2084)."""
    m1, m2, c1, c2, c3 = 0.1593017578125, 78.84375, 0.8359375, 18.8515625, 18.6875
    power = np.maximum(signal, 0) ** (1 / m2)
    return np.asarray(10_000 * (np.maximum(power - c1, 0) / (c2 - c3 * power)) ** (1 / m1))


def pressed(light: Colours) -> Colours:
    """Light as a share of reference white → 0–1: as it is up to the knee, then ever less, with no corner."""
    above = np.maximum(light - KNEE, 0)
    most = 1 - np.exp(-(PEAK_NITS / WHITE_NITS - KNEE) / (1 - KNEE))
    return np.where(light <= KNEE, light, KNEE + (1 - KNEE) * np.minimum((1 - np.exp(-above / (1 - KNEE))) / most, 1))


def ordinary(signal: Colours, transfer: Transfer) -> Colours:
    """A BT.2100 signal (0–1, last axis RGB) as an ordinary BT.709 signal, shown with a gamma of 2.4 (BT.1886)."""
    nits = hlg_nits(signal) if transfer == "hlg" else pq_nits(signal)
    light = np.maximum(nits / WHITE_NITS @ TO_709.T, 0)
    # One factor for the three colours, by the brightest: hues stay.
    brightest = light.max(axis=-1, keepdims=True)
    light = light * pressed(brightest) / np.maximum(brightest, 1e-9)
    return np.asarray(np.clip(light, 0, 1) ** (1 / 2.4))


def ordinary_lut(transfer: Transfer) -> str:
    """The table as a .cube file: red changes fastest."""
    steps = np.linspace(0, 1, LUT_SIZE)
    blue, green, red = np.meshgrid(steps, steps, steps, indexing="ij")
    table = ordinary(np.stack([red, green, blue], axis=-1), transfer).reshape(-1, 3)
    return f"LUT_3D_SIZE {LUT_SIZE}\n" + "\n".join(f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in table) + "\n"
