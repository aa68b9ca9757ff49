/** What a part of a screen asks of the server: why the last thing failed, for one line on the screen. */
export class Asking {
  failure = $state('')

  /** Do it; true where it was done. */
  async run(work: () => Promise<unknown>): Promise<boolean> {
    this.failure = ''
    try {
      await work()
      return true
    } catch (error) {
      this.failure = error instanceof Error ? error.message : String(error)
      return false
    }
  }
}
