import { describe, expect, test } from 'vitest'
import { boxOf, frameAt, lengthOf, poseAt, stepped, type Figure } from './motion'

/** Two joints and an axis over three frames: the hip rises by 100 mm a frame. */
const figure: Figure = {
  technique: 'hip-throw',
  side: 'right',
  options: {},
  fault: null,
  says: '',
  degree: '',
  joints: ['left_hip', 'right_hip'],
  axes: ['chest_up'],
  times_s: [0, 0.04, 0.1],
  bodies: [
    {
      body: 'performer',
      stature_m: 1.7,
      frames: [
        [100, 200, 900, -100, 200, 900, 0, 0, 1000],
        [100, 200, 1000, -100, 200, 900, 0, 1000, 0],
        [100, 200, 1100, -100, 200, 900, 0, 1000, 0],
      ],
    },
  ],
  events_s: { lands: 0.04 },
  checkpoints: [],
}

describe('the frames of a figure', () => {
  test('the frame shown is the last one that has begun', () => {
    expect([-1, 0, 0.039, 0.04, 0.09, 5].map((seconds) => frameAt(figure, seconds))).toEqual([0, 0, 0, 1, 1, 2])
  })
  test('a step goes to the next frame, also from between two, and stops at the ends', () => {
    expect(stepped(figure, 0, 1)).toBe(0.04)
    expect(stepped(figure, 0.05, 1)).toBe(0.1)
    expect(stepped(figure, 0.05, -1)).toBe(0.04)
    expect(stepped(figure, 0.04, -1)).toBe(0)
    expect(stepped(figure, 0, -1)).toBe(0)
    expect(stepped(figure, 0.1, 1)).toBe(lengthOf(figure))
  })
})

describe('a pose', () => {
  test('is in metres, and between frames lies between them', () => {
    expect(poseAt(figure, 0, 0).at('left_hip')).toEqual([0.1, 0.2, 0.9])
    expect(poseAt(figure, 0, 0.07).at('left_hip')[2]).toBeCloseTo(1.05)
    expect(poseAt(figure, 0, 0.02).at('chest_up')).toEqual([0, 0.5, 0.5])
    expect(poseAt(figure, 0, 9).at('left_hip')[2]).toBeCloseTo(1.1)
  })
  test('has no joint that was not sent', () => {
    expect(() => poseAt(figure, 0, 0).at('tail')).toThrow('no tail')
  })
})

test('the box holds all joints over all frames, and the mat', () => {
  expect(boxOf([figure])).toEqual([
    [-0.1, 0.2, 0],
    [0.1, 0.2, 1.1],
  ])
})
