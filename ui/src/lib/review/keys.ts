import { tinykeys } from 'tinykeys'
import type { Bench } from './bench.svelte'

/** Everything on the bench by key; typing in a field is left alone. Returns what unbinds it. */
export function bindKeys(bench: Bench, toggleCard: () => void, toggleClip: () => void, tie: () => void, toggleFacts: () => void): () => void {
  const guarded = (work: (event: KeyboardEvent) => void) => (event: KeyboardEvent) => {
    const { target } = event
    if (target instanceof Element && target.closest('input, textarea, select, dialog')) return
    event.preventDefault()
    work(event)
  }
  const bindings: Record<string, (event: KeyboardEvent) => void> = {
    ArrowLeft: (event) => stepOrRun(bench, event, -1),
    ArrowRight: (event) => stepOrRun(bench, event, 1),
    'Shift+ArrowLeft': (event) => stepOrRun(bench, event, -10),
    'Shift+ArrowRight': (event) => stepOrRun(bench, event, 10),
    ',': () => bench.jump(-1),
    '.': () => bench.jump(1),
    j: () => bench.typeFrame(),
    Home: () => bench.player.go(bench.rep?.first_frame ?? 0),
    End: () => bench.player.go(bench.rep?.last_frame ?? bench.player.last),
    Space: () => bench.player.toggle(),
    s: () => bench.player.cycleSpeed(),
    m: () => bench.player.toggleSound(),
    l: () => bench.player.toggleLoop(bench.rep?.first_frame ?? 0, bench.rep?.last_frame ?? bench.player.last),
    '+': () => bench.zoom.by(1.5),
    'Shift++': () => bench.zoom.by(1.5),
    '=': () => bench.zoom.by(1.5),
    '-': () => bench.zoom.by(1 / 1.5),
    '0': () => bench.zoom.reset(),
    'Control+ArrowLeft': () => bench.zoom.pan(0.1, 0),
    'Control+ArrowRight': () => bench.zoom.pan(-0.1, 0),
    'Control+ArrowUp': () => bench.zoom.pan(0, 0.1),
    'Control+ArrowDown': () => bench.zoom.pan(0, -0.1),
    f: () => bench.zoomStrand(0.5),
    w: () => bench.zoomStrand(2),
    e: () => (bench.span = null),
    a: () => !bench.finished && !bench.rep && bench.acceptProposal(),
    'Shift+A': () => !bench.finished && !bench.rep && bench.acceptAll(),
    d: () => !bench.finished && !bench.rep && bench.dropProposal(),
    i: toggleClip,
    t: tie,
    '<': () => bench.secondView && bench.secondPlayer.step(-1),
    'Shift+<': () => bench.secondView && bench.secondPlayer.step(-1),
    '>': () => bench.secondView && bench.secondPlayer.step(1),
    'Shift+>': () => bench.secondView && bench.secondPlayer.step(1),
    g: () => bench.goToReading(),
    BracketLeft: () => !bench.finished && bench.setEdge('first_frame'),
    BracketRight: () => !bench.finished && bench.setEdge('last_frame'),
    r: () => !bench.finished && bench.choose(null),
    Tab: () => stepRep(bench, 1),
    'Shift+Tab': () => stepRep(bench, -1),
    Enter: () => bench.nextEvent && bench.mark(bench.nextEvent),
    ArrowUp: () => bench.stepCheckpoint(-1),
    ArrowDown: () => bench.stepCheckpoint(1),
    y: () => bench.answer(true),
    n: () => bench.answer(false),
    p: () => !bench.finished && (bench.rep?.needs.length ?? 0) > 0 && bench.take('points'),
    c: () => bench.corrections.usual(),
    z: () => bench.corrections.copy(),
    h: () => takeHeight(bench, 'performer'),
    'Shift+H': () => takeHeight(bench, 'partner'),
    q: () => !bench.finished && bench.acceptProposedEvent(),
    o: () => !bench.finished && bench.judgement && bench.judgement.verdict !== 'not_asked' && (bench.overruling = true),
    k: () => bench.carry(),
    u: () => !bench.finished && bench.toggleHidden(),
    v: () => !bench.finished && bench.tool === 'points' && bench.copyNear(),
    b: toggleFacts,
    x: () => (bench.planShown = !bench.planShown),
    Delete: () => (bench.corrections.open && !bench.selected ? bench.corrections.remove() : bench.removeSelected()),
    Backspace: () => bench.removeSelected(),
    Escape: () => bench.dropTool(),
    'Control+z': () => bench.undo(),
    'Control+Shift+Z': () => bench.redo(),
    'Meta+z': () => bench.undo(),
    'Meta+Shift+Z': () => bench.redo(),
    '?': toggleCard,
    'Shift+?': toggleCard,
  }
  for (const [key, dx, dy] of [['Left', -1, 0], ['Right', 1, 0], ['Up', 0, -1], ['Down', 0, 1]] as const) {
    bindings[`Alt+Arrow${key}`] = () => bench.nudge(dx, dy)
    bindings[`Alt+Shift+Arrow${key}`] = () => bench.nudge(dx / 5, dy / 5)
  }
  for (let number = 1; number <= 9; number++) {
    bindings[`Digit${number}`] = () => withEvent(bench, number, (key) => bench.mark(key))
    bindings[`Shift+Digit${number}`] = () => withEvent(bench, number, (key) => bench.didNotHappen(key))
  }
  const release = tinykeys(window, Object.fromEntries(Object.entries(bindings).map(([key, work]) => [key, guarded(work)])))
  const rest = () => bench.player.rest()
  window.addEventListener('keyup', rest)
  window.addEventListener('blur', rest)
  return () => {
    release()
    window.removeEventListener('keyup', rest)
    window.removeEventListener('blur', rest)
  }
}

/** One press is one step; a key that is held runs on until it is let go. */
function stepOrRun(bench: Bench, event: KeyboardEvent, by: number): void {
  if (event.repeat) bench.player.run(by)
  else bench.player.step(by)
}

function withEvent(bench: Bench, number: number, work: (key: string) => void): void {
  const event = bench.technique?.events[number - 1]
  if (event && bench.rep) work(event.key)
}

function stepRep(bench: Bench, by: number): void {
  const { reps } = bench.review
  const at = reps.findIndex((rep) => rep.id === bench.repId)
  const next = reps[(at + by + reps.length) % Math.max(reps.length, 1)]
  if (next) bench.choose(next.id)
}

function takeHeight(bench: Bench, body: 'performer' | 'partner'): void {
  if (bench.finished) return
  bench.heightBody = body
  bench.take('height')
}
