/** Unsigned LEB128 numbers, for the sparse histogram encoding and the frames around it. Exact up to 2⁵³. */

/** Writes numbers one after another into bytes that grow as needed. */
export class ByteWriter {
  bytes: Uint8Array
  length = 0
  private view: DataView

  constructor(capacity = 1024) {
    this.bytes = new Uint8Array(capacity)
    this.view = new DataView(this.bytes.buffer)
  }

  /** Makes room for `more` bytes; call once before a run of unchecked writes. */
  reserve(more: number): void {
    if (this.length + more <= this.bytes.length) return
    const grown = new Uint8Array(Math.max(this.bytes.length * 2, this.length + more))
    grown.set(this.bytes.subarray(0, this.length))
    this.bytes = grown
    this.view = new DataView(grown.buffer)
  }

  varint(value: number): void {
    this.reserve(8)
    let v = value
    while (v > 0x7fffffff) {
      this.bytes[this.length++] = (v % 128) | 0x80
      v = Math.floor(v / 128)
    }
    while (v > 127) {
      this.bytes[this.length++] = (v & 127) | 128
      v >>>= 7
    }
    this.bytes[this.length++] = v
  }

  u8(value: number): void {
    this.reserve(1)
    this.bytes[this.length++] = value
  }

  u16(value: number): void {
    this.reserve(2)
    this.view.setUint16(this.length, value, true)
    this.length += 2
  }

  u32(value: number): void {
    this.reserve(4)
    this.view.setUint32(this.length, value, true)
    this.length += 4
  }

  raw(bytes: Uint8Array): void {
    this.reserve(bytes.length)
    this.bytes.set(bytes, this.length)
    this.length += bytes.length
  }

  /** A copy of what was written. */
  take(): Uint8Array {
    return this.bytes.slice(0, this.length)
  }
}

/** Thrown when bytes end too early or a number is out of range; the message says where. */
export class BytesError extends Error {
  override name = 'BytesError'
}

/** Reads what {@link ByteWriter} wrote. */
export class ByteReader {
  constructor(
    readonly bytes: Uint8Array,
    public at = 0,
    readonly end = bytes.length,
  ) {}

  /** @throws BytesError when the bytes end inside the number, or it passes 2⁵³ */
  varint(): number {
    let value = 0
    let scale = 1
    for (let i = 0; i < 8; i++) {
      if (this.at >= this.end) throw new BytesError(`bytes end at ${this.at} inside a number`)
      const byte = this.bytes[this.at++]!
      value += (byte & 127) * scale
      if (byte < 128) {
        if (value > Number.MAX_SAFE_INTEGER) break
        return value
      }
      scale *= 128
    }
    throw new BytesError(`number before byte ${this.at} is larger than 2^53`)
  }

  u8(): number {
    this.need(1)
    return this.bytes[this.at++]!
  }

  u16(): number {
    this.need(2)
    this.at += 2
    return this.bytes[this.at - 2]! | (this.bytes[this.at - 1]! << 8)
  }

  u32(): number {
    return this.u16() + this.u16() * 0x10000
  }

  /** Moves past `length` bytes and returns where they began. */
  skip(length: number): number {
    this.need(length)
    this.at += length
    return this.at - length
  }

  private need(length: number): void {
    if (this.at + length > this.end)
      throw new BytesError(`bytes end at ${this.end}, ${length} more wanted at ${this.at}`)
  }
}
