/**
 * Isotonic regression: the best never-falling curve through weighted points, by pooling adjacent violators (Barlow,
 * Bartholomew, Bremner & Brunk 1972).
 */

/** @param values in the order of their abscissae @param weights above 0 @returns the fitted values, never falling */
export function isotonic(values: readonly number[], weights: readonly number[]): number[] {
  const blocks: { mean: number, weight: number, length: number }[] = []
  values.forEach((value, i) => {
    let block = { mean: value, weight: weights[i]!, length: 1 }
    for (let last = blocks.at(-1); last && last.mean >= block.mean; last = blocks.at(-1)) {
      blocks.pop()
      const weight = last.weight + block.weight
      block = {
        mean: (last.mean * last.weight + block.mean * block.weight) / weight,
        weight,
        length: last.length + block.length,
      }
    }
    blocks.push(block)
  })
  return blocks.flatMap(b => new Array<number>(b.length).fill(b.mean))
}
