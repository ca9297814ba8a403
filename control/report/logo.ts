/** Pictures that a report is given: PNG as it is, SVG cleaned. */
import clean from 'sanitize-html'

const TAGS = ['svg', 'g', 'path', 'rect', 'circle', 'ellipse', 'line', 'polyline', 'polygon', 'text', 'tspan', 'title', 'desc', 'defs', 'linearGradient', 'radialGradient', 'stop', 'clipPath']
const ATTRIBUTES = ['xmlns', 'viewBox', 'width', 'height', 'x', 'y', 'x1', 'y1', 'x2', 'y2', 'cx', 'cy', 'r', 'rx', 'ry', 'd', 'points', 'fill', 'fill-opacity', 'fill-rule', 'clip-rule', 'stroke', 'stroke-width', 'stroke-linecap', 'stroke-linejoin', 'stroke-dasharray', 'stroke-opacity', 'opacity', 'transform', 'font-size', 'font-weight', 'text-anchor', 'offset', 'stop-color', 'stop-opacity', 'gradientUnits', 'gradientTransform', 'id', 'clip-path']

export type Logo = { kind: 'png', uri: string } | { kind: 'svg', text: string }

const PNG = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])

/** @param uri a data URI in base64 @returns undefined: it is no picture */
export function readLogo(uri: string): Logo | undefined {
  const [, type, base64] = /^data:image\/(png|svg\+xml);base64,(.*)$/.exec(uri) ?? []
  if (base64 === undefined) return undefined
  const bytes = Buffer.from(base64, 'base64')
  if (type === 'png') return bytes.subarray(0, PNG.length).equals(PNG) ? { kind: 'png', uri } : undefined
  const text = cleanSvg(bytes.toString('utf8'))
  return /^<svg[\s>]/.test(text) ? { kind: 'svg', text } : undefined
}

/** Shapes, words and colours are left: nothing that acts, and nothing that is fetched from elsewhere. */
export function cleanSvg(svg: string): string {
  return clean(svg, {
    allowedTags: TAGS,
    allowedAttributes: { '*': ATTRIBUTES },
    parser: { lowerCaseTags: false, lowerCaseAttributeNames: false, xmlMode: true },
    exclusiveFilter: ({ attribs }) => Object.values(attribs).some(v => /url\(\s*['"]?(?!#)/i.test(v)),
  }).trim()
}
