"""A technique of an academy's own that moves like a shipped one."""

from __future__ import annotations

OURS = """
lacertus_technique: 1
id: our-kick
names: {main: Our kick}
family: kick
phases: [start, finish]
events:
  reached: {phase: finish, mark: First frame in which the working knee no longer straightens}
  knee_top: {phase: start, mark: First frame in which the working knee no longer rises}
checkpoints:
  - id: leg_long
    phase: finish
    kind: angle
    ask: Knee nearly straight
    measure: {points: [working_hip, working_knee, working_ankle], at: reached}
    within: [WITHIN, null]
    fault: {code: bent-leg, family: half range}
    cues: [Reach through]
    why: A bent leg pushes
cautions: [supervised]
moves_like: {technique: front-kick, events: {reached: SECONDS}}
"""
