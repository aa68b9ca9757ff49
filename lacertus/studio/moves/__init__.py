"""The moves that the studio knows, by technique. To add one: a module beside these with a `MOVE`, named here."""

from __future__ import annotations

from lacertus.studio.body.move import Move
from lacertus.studio.moves import (
    arm_drag,
    arm_in_head_choke,
    back_fall,
    crescent_kick,
    cross_armlock_from_back,
    duck_under,
    flying_side_kick,
    foot_sweep,
    front_fall,
    front_kick,
    half_guard_underhook,
    hip_throw,
    hook_kick,
    inner_reap,
    inverted_back_take,
    jump_turning_round_kick,
    knee_pit_choke,
    knee_shield_pass,
    lead_leg_fake,
    moving_backward_fall,
    north_south_choke,
    outer_reap,
    pendulum_sweep,
    reverse_crescent_kick,
    rolling_fall,
    scissor_sweep,
    seated_counter,
    side_fall,
    side_kick,
    small_inner_reap,
    triangle,
    two_bump_escape,
)

_MODULES = (arm_drag, arm_in_head_choke, back_fall, crescent_kick, cross_armlock_from_back, duck_under, flying_side_kick, foot_sweep, front_fall, front_kick, half_guard_underhook, hip_throw, hook_kick, inner_reap, inverted_back_take, jump_turning_round_kick, knee_pit_choke, knee_shield_pass, lead_leg_fake, moving_backward_fall, north_south_choke, outer_reap, pendulum_sweep, reverse_crescent_kick, rolling_fall, scissor_sweep, seated_counter, side_fall, side_kick, small_inner_reap, triangle, two_bump_escape)
MOVES: dict[str, Move] = {module.MOVE.technique: module.MOVE for module in _MODULES}
