/** What rubbish is made of for tests: something valid, changed a little, by a seed. */
import { seededRandom } from '../../core/random/seeded'

const ODD_NUMBERS = [0, -1, 1.5, 1e308, -1e308, 2 ** 31, 2 ** 53, 2 ** 53 + 1, Number.MIN_VALUE]
const ODD_TEXTS = ['', ' ', '\0', '__proto__', 'constructor', '../../etc/passwd', '\ud800', 'é'.repeat(300), '{{x}}']
const ODD: unknown[] = [null, true, [], {}, [[]], ...ODD_NUMBERS, ...ODD_TEXTS]
const ODD_PIECES = ['\n', '\r', '"', '\'', '{', '}', '[', ']', ':', ',', '&a', '*a', '<<: *a', '!!js', '|', '- ', '\t', '\0', '\ufeff', '%', '//', '1e999']

export class Mutator {
  private readonly random: () => number

  constructor(seed: number) {
    this.random = seededRandom(seed)
  }

  below(n: number): number {
    return Math.floor(this.random() * n)
  }

  one<T>(of: readonly T[]): T {
    return of[this.below(of.length)]!
  }

  /** One to four changes: taken out, doubled, put elsewhere, or something odd put in. */
  text(valid: string): string {
    let text = valid
    for (let i = 0; i <= this.below(4); i++) {
      const a = this.below(text.length + 1)
      const b = a + this.below(text.length + 1 - a)
      const piece = text.slice(a, Math.min(b, a + 40))
      text = this.one([
        () => text.slice(0, a) + text.slice(a + piece.length),
        () => text.slice(0, a) + piece + text.slice(a),
        () => text.slice(0, b) + piece + text.slice(b),
        () => text.slice(0, a) + this.one(ODD_PIECES) + text.slice(a),
        () => text.slice(0, a),
        () => text.slice(0, a) + String.fromCharCode(this.below(0x10000)) + text.slice(a + 1),
      ])()
    }
    return text
  }

  bytes(valid: Uint8Array): Uint8Array {
    const bytes = valid.slice()
    for (let i = 0; i <= this.below(4); i++) if (bytes.length > 0) bytes[this.below(bytes.length)] = this.below(256)
    return this.below(4) === 0 ? bytes.subarray(0, this.below(bytes.length + 1)) : bytes
  }

  /** A value somewhere in it is another, is gone, or has company. */
  json(valid: unknown): unknown {
    const copy: unknown = structuredClone(valid)
    for (let i = 0; i <= this.below(2); i++) this.change(copy)
    return copy
  }

  private change(within: unknown): void {
    if (typeof within !== 'object' || within === null) return
    const holder = within as Record<string, unknown>
    const key = this.one(Object.keys(holder))
    if (key === undefined) return
    const value = holder[key]
    if (typeof value === 'object' && value !== null && Object.keys(value).length > 0 && this.below(4) > 0)
      return this.change(value)
    switch (this.below(4)) {
      case 0:
        if (Array.isArray(within)) within.splice(Number(key), 1)
        else Reflect.deleteProperty(holder, key)
        return
      case 1:
        holder[Array.isArray(within) ? String(within.length) : 'odd'] = structuredClone(this.one(ODD))
        return
      default:
        holder[key] = structuredClone(this.one(ODD))
    }
  }
}
