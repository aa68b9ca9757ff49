import { tinykeys } from 'tinykeys'
import type { Bench } from './bench.svelte'

const TYPED_INTO =
  'input:not([type=radio]), textarea, select, [role=dialog], [role=alertdialog], [data-scope=combobox], [data-scope=menu]'
/** A choice among a few has its own arrows and space, but nothing to type: a letter there is meant for the bench. */
const CHOSEN = 'input[type=radio]'

const PRESSED = 'button:focus-visible, a:focus-visible, summary:focus-visible'

function isLetter(event: KeyboardEvent): boolean {
  return event.key.length === 1 && event.key !== ' '
}

/** Everything on the bench by key; typing in a field is left alone. Returns what unbinds it. */
export function bindKeys(
  bench: Bench,
  toggleCard: () => void,
  toggleClip: () => void,
  tie: () => void,
  toggleFacts: () => void,
): () => void {
  const guarded = (work: (event: KeyboardEvent) => void) => (event: KeyboardEvent) => {
    const { target } = event
    if (target instanceof Element && (target.closest(TYPED_INTO) || (target.closest(CHOSEN) && !isLetter(event))))
      return
    // Whoever goes through the buttons by key presses the one that is in focus.
    if ((event.key === 'Enter' || event.key === ' ') && target instanceof Element && target.matches(PRESSED)) return
    event.preventDefault()
    work(event)
  }
  const bindings: Record<string, (event: KeyboardEvent) => void> = {
    ArrowLeft: (event) => stepOrRun(bench, event, -1),
    ArrowRight: (event) => stepOrRun(bench, event, 1),
    'Shift+ArrowLeft': (event) => stepOrRun(bench, event, -10),
    'Shift+ArrowRight': (event) => stepOrRun(bench, event, 10),
    ',': () => bench.strand.jump(-1),
    '.': () => bench.strand.jump(1),
    j: () => bench.strand.typeFrame(),
    Home: () => bench.player.go(bench.rep?.first_frame ?? 0),
    End: () => bench.player.go(bench.rep?.last_frame ?? bench.player.last),
    Space: () => bench.player.toggle(),
    s: () => bench.player.cycleSpeed(),
    'Shift+S': () => bench.cutting.makeStart(),
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
    f: () => bench.strand.zoom(0.5),
    w: () => bench.strand.zoom(2),
    e: () => (bench.strand.span = null),
    a: () => !bench.finished && !bench.rep && bench.cutting.accept(),
    'Shift+A': () => !bench.finished && !bench.rep && bench.cutting.acceptAll(),
    d: () => !bench.finished && !bench.rep && bench.cutting.drop(),
    i: toggleClip,
    t: tie,
    'Shift+T': () => bench.secondView && bench.views.next(),
    '<': () => bench.secondView && bench.secondPlayer.step(-1),
    'Shift+<': () => bench.secondView && bench.secondPlayer.step(-1),
    '>': () => bench.secondView && bench.secondPlayer.step(1),
    'Shift+>': () => bench.secondView && bench.secondPlayer.step(1),
    g: () => bench.goToReading(),
    'Shift+G': () => bench.curves.toggle(),
    BracketLeft: () => !bench.finished && bench.cutting.setEdge('first_frame'),
    BracketRight: () => !bench.finished && bench.cutting.setEdge('last_frame'),
    r: () => !bench.finished && bench.choose(null),
    'Shift+ArrowDown': () => stepRep(bench, 1),
    'Shift+ArrowUp': () => stepRep(bench, -1),
    Enter: () => bench.guide.enter(),
    ArrowUp: () => bench.stepCheckpoint(-1),
    ArrowDown: () => bench.stepCheckpoint(1),
    y: () => bench.marking.answer(true),
    n: () => bench.marking.answer(false),
    p: () => !bench.finished && (bench.rep?.needs.length ?? 0) > 0 && bench.take('points'),
    c: () => bench.corrections.drawDefault(),
    'Shift+C': () => bench.corrections.drawByHand(),
    'Shift+V': () => bench.corrections.speak(),
    z: () => bench.corrections.copy(),
    h: () => takeHeight(bench, 'performer'),
    'Shift+H': () => takeHeight(bench, 'partner'),
    q: () => !bench.finished && bench.marking.acceptProposed(),
    'Shift+Q': () => bench.marking.acceptAllProposed(),
    o: () =>
      !bench.finished &&
      bench.judgement &&
      bench.judgement.verdict !== 'not_asked' &&
      (bench.marking.overruling = true),
    k: () => track(bench),
    u: () => !bench.finished && bench.points.toggleHidden(),
    v: () => !bench.finished && bench.tool === 'points' && bench.points.copyNear(),
    b: toggleFacts,
    x: () => (bench.mat.asked = bench.space.asked = !bench.space.asked),
    Delete: () =>
      bench.corrections.open && !bench.points.selected ? bench.corrections.remove() : bench.points.removeSelected(),
    Backspace: () => bench.points.removeSelected(),
    Escape: () => bench.dropTool(),
    'Control+z': () => bench.history.undo(),
    'Control+Shift+Z': () => bench.history.redo(),
    'Meta+z': () => bench.history.undo(),
    'Meta+Shift+Z': () => bench.history.redo(),
    '?': toggleCard,
    'Shift+?': toggleCard,
  }
  for (const [key, dx, dy] of [
    ['Left', -1, 0],
    ['Right', 1, 0],
    ['Up', 0, -1],
    ['Down', 0, 1],
  ] as const) {
    bindings[`Alt+Arrow${key}`] = () => bench.points.nudge(dx, dy)
    bindings[`Alt+Shift+Arrow${key}`] = () => bench.points.nudge(dx / 5, dy / 5)
  }
  for (let number = 1; number <= 9; number++) {
    bindings[`Digit${number}`] = () => withEvent(bench, number, (key) => bench.marking.mark(key))
    bindings[`Shift+Digit${number}`] = () => withEvent(bench, number, (key) => bench.marking.didNotHappen(key))
  }
  const release = tinykeys(
    window,
    Object.fromEntries(Object.entries(bindings).map(([key, work]) => [key, guarded(work)])),
  )
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
  const event = bench.marking.events[number - 1]
  if (event && bench.rep) work(event.key)
}

function stepRep(bench: Bench, by: number): void {
  const { reps } = bench.review
  const at = reps.findIndex((rep) => rep.id === bench.repId)
  const next = reps[(at + by + reps.length) % Math.max(reps.length, 1)]
  if (next) bench.choose(next.id)
}

/** Track; where nothing is placed that tells about the bodies, place that first. */
function track(bench: Bench): void {
  if (bench.tracking.can) bench.tracking.start()
  else if (bench.rep && !bench.finished && !bench.tracking.runs && bench.tool !== 'points') bench.take('points')
}

function takeHeight(bench: Bench, body: 'performer' | 'partner'): void {
  if (bench.finished) return
  bench.reference.heightBody = body
  bench.take('height')
}
