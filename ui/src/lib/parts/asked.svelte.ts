interface Question {
  title: string
  text: string
  /** The word on the button that does it. */
  action: string
  answer: (yes: boolean) => void
}

/** A question that a coach has to answer before something is done that cannot be undone. One is asked at a time. */
export class Asked {
  open = $state.raw<Question | null>(null)

  ask(title: string, text: string, action: string): Promise<boolean> {
    this.open?.answer(false)
    return new Promise((answer) => (this.open = { title, text, action, answer }))
  }
  answer(yes: boolean): void {
    const now = this.open
    this.open = null
    now?.answer(yes)
  }
}

export const asked = new Asked()

/** Ask before something is deleted; true where it is to be done. */
export function sure(title: string, text: string, action = 'Delete'): Promise<boolean> {
  return asked.ask(title, text, action)
}
