"""Looks that scripts name: invented people, told apart by stature, build, jacket, belt, hair and skin."""

from __future__ import annotations

from lacertus.studio.body.figure import Look

WHITE, BLUE, CREAM = (0.90, 0.89, 0.85), (0.20, 0.29, 0.47), (0.86, 0.81, 0.70)

LOOKS: dict[str, Look] = {
    "ash": Look(stature_m=1.68, build=0.96, hair=(0.42, 0.27, 0.14), skin=(0.87, 0.69, 0.57), belt=(0.32, 0.22, 0.14)),
    "birch": Look(stature_m=1.80, build=1.05, hair=(0.11, 0.09, 0.08), skin=(0.62, 0.44, 0.33), belt=(0.10, 0.11, 0.20)),
    "cedar": Look(stature_m=1.62, build=0.94, hair=(0.60, 0.44, 0.22), skin=(0.90, 0.73, 0.62), belt=(0.20, 0.36, 0.24)),
    "elm": Look(stature_m=1.76, cloth=BLUE, belt=(0.75, 0.62, 0.30), hair=(0.24, 0.17, 0.12), skin=(0.84, 0.66, 0.53)),
    "hazel": Look(
        stature_m=1.58, build=0.98, cloth=CREAM, belt=(0.70, 0.34, 0.16), hair=(0.16, 0.11, 0.08), skin=(0.74, 0.54, 0.41)
    ),
    "larch": Look(
        stature_m=1.84, build=1.10, cloth=BLUE, belt=(0.32, 0.22, 0.14), hair=(0.36, 0.33, 0.30), skin=(0.86, 0.68, 0.58)
    ),
    "maple": Look(stature_m=1.47, build=0.90, belt=(0.85, 0.70, 0.25), hair=(0.50, 0.24, 0.12), skin=(0.91, 0.74, 0.64)),
    "rowan": Look(
        stature_m=1.71,
        build=1.02,
        cloth=(0.22, 0.25, 0.28),
        belt=(0.55, 0.18, 0.16),
        hair=(0.09, 0.08, 0.08),
        skin=(0.55, 0.38, 0.28),
    ),
}
