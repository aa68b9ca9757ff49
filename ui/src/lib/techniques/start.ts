/** What a new technique begins as: small, whole and without a problem. */
export const START = `lacertus_technique: 1
id: our-technique
names: {main: Our technique}
family: kick
summary: What it is, in a sentence or two.
works_when: When it works.
phases: [start, finish]
events:
  begins: {phase: start, mark: First frame in which the working foot leaves the mat}
  reached: {phase: finish, mark: First frame in which the working knee no longer straightens}
checkpoints:
  - id: leg_long
    phase: finish
    kind: angle
    ask: Leg nearly straight
    measure: {points: [working_hip, working_knee, working_ankle], at: reached}
    within: [155, null]
    reason_for_range: Why this number
    fault: {code: bent-leg, family: half range}
    cues: [Reach through]
    why: What goes wrong without it
cautions: [supervised]
`
