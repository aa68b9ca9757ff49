/** Whether the screen is touched: there are no arrow keys then, and nothing is clicked. */
export const byTouch = (): boolean => globalThis.matchMedia?.('(pointer: coarse)').matches ?? false

/** By what one steps from frame to frame here. */
export const stepWays = (): string =>
  byTouch() ? 'with the step buttons or on the strip' : 'with the arrow keys or on the strip'
