import { expect, it } from 'vitest'
import { csv, curvesCsv } from './save'

it('writes fields that a table program neither splits nor runs', () => {
  expect(csv([['a,b', 'say "x"', '=1+1', -1.5, null]])).toBe('"a,b","say ""x""",\'=1+1,-1.5,\r\n')
})

it('writes one line a frame, with gaps empty', () => {
  const curve = {
    name: 'angle at the knee',
    unit: 'deg',
    first: 10,
    values: [90, null],
    u: [2, null],
    low: null,
    high: null,
  }
  const found = {
    checkpoint: 'knee',
    event: 'reach',
    why_none: '',
    spread: [],
    reps: [{ rep: 'r', first: 10, clock_s: [-0.1, 0], read_at: [11], curves: [curve] }],
  }
  expect(curvesCsv(found, 0)).toBe(
    'rep,frame,seconds from reach,angle at the knee (deg),standard uncertainty\r\n1,10,-0.1,90,2\r\n1,11,0,,\r\n',
  )
})
