import { createStore } from 'zustand/vanilla'

import type { DeskSentenceShown, TypeShown } from '../../api/schema'
import type { Selection } from '../../stave/Stave'
import {
  type Act, answer, ask, inTurn, joinNext, markAs, nudgedAt, type Place, remove, setBounds, sign, signEmpty, splitAt, take,
  turnDown, withdraw,
} from './acts'
import { byCharacter, isCursor, type Move, selectedRange, startOf, toRange, toRun, toToken, toWord } from './cursor'
import { type MarkedSpan, neighbour, nextGap, type Overlap, type Range, sameSpan } from './edits'
import { bestOf, type Evidence, evidenceAt, type Sight, sightOf, undisputed } from './evidence'
import { type Standing, stoodOf } from './standing'
import type { Stood } from './wishes'
import type { ActOnItsWay } from './wishes'

/** What the page shows, as of its last drawing. */
export interface Page {
  /** The open sentence as it was last fetched; undefined while it is on its way. */
  sentence: DeskSentenceShown | undefined
  /** Is its evidence still being looked up? */
  isBare: boolean
  types: readonly TypeShown[]
  overlap: Overlap
  /** Why the person at the screen may change nothing here, if so. */
  refusal: string | undefined
  /** To the next sentence that is not signed. */
  goOn: () => void
}

/** What a session asks of what is around it, each time as it is now, and what it has done. */
export interface World {
  standing: () => Standing
  hidden: () => readonly string[]
  /** How likely what is taken at once must be, where the pipeline weighs. */
  sure: () => number
  lastType: () => string | null
  remember: (type: string) => void
  /** One act, to be logged, undone and sent as one. */
  put: (wish: Pick<ActOnItsWay, 'kind' | 'verdicts'>, before: Stood, after: Stood) => void
  tell: (words: string) => void
}

const BLANK: Page = { sentence: undefined, isBare: true, types: [], overlap: 'apart', refusal: undefined, goOn: () => undefined }
const SOON = 'Still looking up evidence here; one moment.'

/**
 * One sentence at work: where its cursor is, and every act on it. Acts are functions of what stands when they are made, not
 * of what was drawn last, so that one key may do several.
 */
export class DeskSession {
  readonly cursor = createStore<Selection>(() => ({ anchor: 0, head: 0 }))
  private begun: { isBare: boolean; at: Selection; version: number } | undefined
  private touched = false
  private page = BLANK

  constructor(private readonly world: World) {}

  /**
   * The page has been drawn. When its sentence has come the cursor goes to `at`, a code point of the body, or to where work
   * begins; once more when its evidence comes, if nothing has been done until then.
   */
  connect(page: Page, at: number | null): void {
    this.page = page
    const { sentence, isBare } = page
    if (!sentence || (this.begun && !(this.begun.isBare && !isBare))) return
    const { version } = sentence.annotation
    const idle = !this.begun || (!this.touched && this.at === this.begun.at && version === this.begun.version)
    const start = startOf(sentence, this.sight(), at)
    this.begun = { isBare, at: start, version }
    if (idle) this.select(start)
  }

  select = (selection: Selection): void => this.cursor.setState(selection, true)

  /** To the words of a span. */
  show = (span: Range): void => this.move(toRange(this.tokens, span))

  // Moves

  step = (by: number, widen: boolean): void => this.move(toToken(this.tokens, this.at.head + by, widen))
  stepWord = (by: 1 | -1): void => this.inSentence((sentence) => this.move(toWord(sentence, by)))
  stepRun = (by: 1 | -1): void => this.inSentence((sentence) => this.move(toRun(sentence, by)))
  stepCharacter = (by: 1 | -1): void => this.inSentence((sentence) => this.move(byCharacter(sentence, by)))
  toFirst = (): void => this.move(toToken(this.tokens, 0))
  toLast = (): void => this.move(toToken(this.tokens, this.tokens.length - 1))

  /** To the next place where gold and evidence differ; where they do not, to where a single source still says otherwise. */
  gap = (): void => {
    const { evidence, differing, isDown } = this.sight()
    const { spans } = this.world.standing()
    const from = this.tokens[Math.min(this.at.anchor, this.at.head)]?.start ?? 0
    const apart = evidence.filter((span) => span.overruled === '' && !isDown(span) && !spans.some((other) => sameSpan(other, span)))
    const found = nextGap<Range>(differing.length > 0 ? differing : apart, from)
    if (found) this.show(found)
    else this.world.tell(this.page.sentence?.quiet ?? (this.page.isBare ? SOON : 'Gold and every source agree here.'))
  }

  stepSpan = (by: 1 | -1): void => {
    const range = this.range
    const found = range && neighbour<Range>([...this.world.standing().spans, ...this.sight().evidence], range.start, by)
    if (found) this.show(found)
    else this.world.tell(by > 0 ? 'No span or evidence follows here.' : 'No span or evidence stands before this.')
  }

  // Acts on gold

  markAs = (type: string): void => this.atCursor((place) => {
    this.world.remember(type)
    this.do(markAs(place, type, this.overlap))
  })

  markAgain = (): void => {
    const type = this.world.lastType()
    if (type && this.page.types.some(({ code }) => code === type)) this.markAs(type)
    else this.world.tell('No type has been marked yet; mark one by its key first.')
  }

  remove = (): void => this.atCursor((place) => this.do(remove(place)))

  /** A span gets other bounds, and the cursor goes along. */
  bounds = (span: MarkedSpan, target: Range | undefined): void => {
    this.do(setBounds(span, target, this.overlap))
    if (target) this.show(target)
  }

  /** One bound of the span under the cursor by a token. */
  nudge = (side: 'start' | 'end', by: number): void => this.atCursor((place) => {
    const found = nudgedAt(this.world.standing(), place, this.tokens, side, by)
    if (typeof found === 'string') this.world.tell(found)
    else this.bounds(found.span, found.target)
  })

  splitHere = (): void => this.atCursor((place) => this.do(splitAt(place, this.tokens, this.at.head)))
  joinNext = (): void => this.atCursor((place) => this.do(joinNext(place, this.overlap)))

  // Acts on evidence

  takeSpan = (span: Evidence): void => void this.do(this.taking([span]))
  turnDownSpan = (span: Evidence): void => void this.do(turnDown(span, this.sight().evidence))

  take = (): void => this.onBest((span) => {
    if (this.do(this.taking([span]))) this.toGap(span.start)
  })
  turnDown = (): void => this.onBest(this.turnDownSpan)

  takeAll = (): void => {
    const found = this.undisputed()
    if (found.length > 0) {
      if (this.do(this.taking(found))) this.toGap(-1)
    } else this.world.tell(this.page.isBare ? SOON : this.sight().sure === null ? 'No evidence is left here on which all sources agree.' : 'No evidence is left here that is as likely as you want it.')
  }

  /** Take all undisputed and sign, as one act; only take where something is left to be looked at. */
  takeAndSign = (): void => {
    if (this.page.isBare) {
      this.world.tell(SOON)
      return
    }
    const found = this.undisputed()
    const taking = found.length > 0 ? [this.taking(found)] : []
    const taken = inTurn(...taking)(this.world.standing())
    if (typeof taken !== 'string' && this.gapAfter(-1, taken?.after ?? this.world.standing())) {
      if (this.do(inTurn(...taking)) === false) return
      this.toGap(-1)
      this.world.tell('Here gold and evidence differ: look at that before you sign.')
    } else if (this.do(inTurn(...taking, sign)) !== false) this.page.goOn()
  }

  // Signing, asking

  sign = (): void => {
    if (this.do(sign) !== false) this.page.goOn()
  }
  signEmpty = (): void => {
    if (this.do(signEmpty) !== false) this.page.goOn()
  }
  withdraw = (): void => void this.do(withdraw)
  ask = (question: string): void => void this.do(ask(question))
  answer = (words: string): void => void this.do(answer(words))

  // What is there now

  sight(standing: Standing = this.world.standing()): Sight {
    return sightOf(this.page.sentence, this.world.hidden(), standing, this.world.sure())
  }

  private get at(): Selection {
    return this.cursor.getState()
  }
  private get tokens(): readonly Range[] {
    return this.page.sentence?.tokens ?? []
  }
  private get overlap(): Overlap {
    return this.page.overlap
  }
  private get range(): Range | undefined {
    return selectedRange(this.tokens, this.at)
  }
  private undisputed(): readonly MarkedSpan[] {
    return undisputed(this.sight(), this.world.standing())
  }
  private taking(wanted: readonly MarkedSpan[]): Act {
    return take(wanted, this.sight().evidence, this.overlap)
  }

  private inSentence(run: (sentence: DeskSentenceShown) => void): void {
    const sentence = this.page.sentence
    if (sentence) run(sentence)
  }
  private atCursor(run: (place: Place) => void): void {
    const { range } = this
    if (range) run({ range, isCursor: isCursor(this.at) })
  }
  private onBest(run: (span: Evidence) => void): void {
    const sight = this.sight()
    const best = bestOf(evidenceAt(sight, this.range), sight)
    if (best) run(best)
    else this.world.tell(this.page.isBare ? SOON : 'There is no evidence under the cursor.')
  }
  private gapAfter(from: number, standing: Standing): Range | undefined {
    return neighbour<Range>(this.sight(standing).differing, from, 1)
  }
  private toGap(from: number): void {
    const found = this.gapAfter(from, this.world.standing())
    if (found) this.show(found)
  }
  private move(move: Move): void {
    const to = move(this.at)
    if (to) this.select(to)
  }

  /** True where something was changed, undefined where nothing had to be; false where it was refused, and told so. */
  private do(act: Act): boolean | undefined {
    if (!this.page.sentence) return false
    const before = this.world.standing()
    const made = act(before)
    if (made === undefined) return undefined
    const refusal = typeof made === 'string' ? made : this.page.refusal
    if (refusal !== undefined || typeof made === 'string') {
      this.world.tell(refusal ?? '')
      return false
    }
    this.touched = true
    this.world.put(made, stoodOf(before), stoodOf(made.after))
    return true
  }
}
