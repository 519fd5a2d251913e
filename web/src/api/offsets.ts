/**
 * The one place where code points and JavaScript's UTF-16 units meet. The server counts code points.
 */
export class CodePoints {
  private readonly points: string[]
  /** Offset of the first code point in the text's body. */
  readonly start: number

  constructor(words: string, start = 0) {
    this.points = Array.from(words)
    this.start = start
  }

  get end(): number {
    return this.start + this.points.length
  }

  /** The words between two offsets of the body. */
  slice(start: number, end: number): string {
    return this.points.slice(start - this.start, end - this.start).join('')
  }
}
