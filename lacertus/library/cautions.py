"""Cautions shown wherever a technique or an option can hurt (docs/measurement.md)."""

from __future__ import annotations

CAUTIONS: dict[str, str] = {
    "supervised": "Practise under supervision, by your academy’s and your region’s rules on ages and techniques.",
    "falls_first": "Falls first: the partner must have passed a fall that fits this throw before it is done at speed.",
    "consent": "Ask your partner before each set, and stop at once when asked.",
    "tap_early": "Tap early, release at once, and never put full force on a joint or the neck.",
    "warm_up_hips": "Warm up hips and hamstrings first; raise the height only as far as the knee leads it.",
    "knee_line": "Keep the support knee over its toes; stop at any pain in a knee.",
    "bare_target": "Kick the air, a held pad or a bag; touch a person only when both have agreed how hard.",
    "head_blow": "Stop on pain, dizziness or a blow to the head, and see a licensed professional.",
    "joint_care": "A lock works on the joint, not against it: slowly, never by jerk, release at the tap; none on children.",
    "round_shoulder": "Roll over the round shoulder, never over the head or neck, and stop at any tingling.",
    "neck_care": "Keep the neck out of it: no bridging, posting or twisting on the head, and stop at any tingling.",
    "choke_care": "A choke works in seconds: release at the tap, a sound or a limp hand; none on children.",
    "jump_landing": "Land on a mat, on both feet or a bent knee; no jumps when tired.",
}

NOT_A_DEVICE = "Lacertus measures pictures. It is no medical or safety device."


def caution_text(key: str) -> str:
    """The words of a caution; an academy's own caution is shown as it is written."""
    return CAUTIONS.get(key, key.replace("_", " "))
