/** What tells the sides of a comparison apart: a colour and a dash each, as colour alone does not. */
export const LINES = ['var(--performer)', 'var(--partner)', 'var(--met)', 'var(--alarm)'] as const
export const DASHES = [null, '7 4', '2 4', '10 3 2 3'] as const
