const MOST = 8

/** How the picture is enlarged: by a factor, shifted by shares of its own size. The picture always fills its frame. */
export class Zoom {
  factor = $state(1)
  x = $state(0)
  y = $state(0)

  /** As a CSS transform with its origin in the upper left corner. */
  get css(): string {
    return `translate(${this.x * 100}%, ${this.y * 100}%) scale(${this.factor})`
  }

  /** Enlarge `by` times about a place of the frame, in shares of it; what lies there stays there. */
  by(times: number, about = { x: 0.5, y: 0.5 }): void {
    const factor = Math.max(1, Math.min(MOST, this.factor * times))
    const real = factor / this.factor
    this.#set(factor, about.x - (about.x - this.x) * real, about.y - (about.y - this.y) * real)
  }

  /** Shift by shares of the frame. */
  pan(x: number, y: number): void {
    this.#set(this.factor, this.x + x, this.y + y)
  }

  reset(): void {
    this.#set(1, 0, 0)
  }

  #set(factor: number, x: number, y: number): void {
    const least = 1 - factor
    this.factor = factor
    this.x = Math.max(least, Math.min(0, x))
    this.y = Math.max(least, Math.min(0, y))
  }
}
