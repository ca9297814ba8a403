/**
 * Templates, the values they name, expressions and paths: each against its standard's own examples where it has them.
 */
import fc from 'fast-check'
import Mustache from 'mustache'
import { compileExpression, ExpressionError } from '../../core/values/expression'
import { compilePath, PathError } from '../../core/values/json-path'
import { resolveValue, type ValueNames, type ValueScope } from '../../core/values/scope'
import { compileTemplate, ESCAPES, namesIn, TemplateError } from '../../core/values/template'
import { seededRandom } from '../../core/random/seeded'

const names: ValueNames = {
  feeds: [{ as: 'student', columns: ['name', 'year'] }],
  captures: ['token'],
  target: { base: 'http://a.test', api: 'http://b.test/v1' },
  runId: '12',
}
function scope(over: Partial<ValueScope> = {}): ValueScope {
  const random = seededRandom(4)
  let n = 0
  return {
    rows: [['Ana & Bo', '2']],
    captured: ['t/1'],
    userNumber: 7,
    passNumber: 3,
    next: () => ++n,
    random,
    now: () => Date.UTC(2026, 10, 25, 8),
    ...over,
  }
}
const render = (text: string, escape = ESCAPES.none, s = scope()) =>
  compileTemplate<ValueScope>(text, name => resolveValue(name, names), escape).render(s)

describe('templates', () => {
  it('are read as Mustache reads them: names, raw names, comments (mustache(5))', () => {
    const text = 'Hello {{ token }}{{! not sent }}, {{{token}}} and {{& token }}.'
    expect(render(text)).toBe(Mustache.render(text, { token: 't/1' }, {}, { escape: v => String(v) }))
  })

  it('put each value in as its place wants it: RFC 3986, RFC 8259, one line of a header', () => {
    expect(render('/x/{{student.name}}', ESCAPES.url)).toBe('/x/Ana%20%26%20Bo')
    expect(render('{"n":"{{student.name}}"}', ESCAPES.json, scope({ rows: [['a"b\\c\n', '1']] }))).toBe(
      '{"n":"a\\"b\\\\c\\n"}',
    )
    expect(render('{{student.name}}', ESCAPES.header, scope({ rows: [['a\r\nevil: 1', '1']] }))).toBe('a evil: 1')
    expect(render('{{{student.name}}}', ESCAPES.url)).toBe('Ana & Bo')
    expect(render('{{target.api}}/y', ESCAPES.url)).toBe('http://b.test/v1/y')
  })

  it('know beforehand what does not depend on the moment', () => {
    const compile = (text: string) => compileTemplate<ValueScope>(text, name => resolveValue(name, names), ESCAPES.none)
    expect(compile('{{target.base}}/x?r={{run.id}}').fixed).toBe('http://a.test/x?r=12')
    expect(compile('{{target.base}}/{{token}}')).toMatchObject({ fixed: undefined, lead: 'http://a.test/' })
  })

  it('say which value is missing, and render nothing', () => {
    const t = compileTemplate<ValueScope>('{{student.name}} {{token}}', name => resolveValue(name, names), ESCAPES.none)
    expect([t.render(scope({ captured: [undefined] })), t.missing(scope({ captured: [undefined] }))]).toEqual([
      undefined,
      'token',
    ])
  })

  it.each([
    ['{{student.shoe}}', 'has no column “shoe”: it has name, year'],
    ['{{target.nope}}', 'has no value “nope”: it has base, api'],
    ['{{nobody}}', 'nobody sets “nobody”'],
    ['{{#each}}x{{/each}}', 'begins a section'],
    ['{{>part}}', 'asks for another template'],
    ['{{open', 'needs its }}'],
    ['{{random.integer(9, 1)}}', 'goes from more to less'],
    ['{{random.nothing}}', 'there is no random.nothing'],
    ['{{random.hex(0)}}', 'length from 1 to 1000'],
  ])('refuse %s in words', (text, words) => {
    expect(() => render(text)).toThrow(TemplateError)
    expect(() => render(text)).toThrow(words)
  })

  it('make up values of the form that is asked for', () => {
    expect(render('{{random.uuid}}')).toMatch(/^[0-9a-f]{8}-[0-9a-f]{4}-4[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/)
    expect(render('{{random.hex(5)}} {{random.letters(3)}} {{random.digits(4)}}')).toMatch(
      /^[0-9a-f]{5} [a-z]{3} \d{4}$/,
    )
    expect(['red', 'blue']).toContain(render('{{random.choice(red, blue)}}'))
    expect(render('{{sequence.order}} {{sequence.order}} {{user.number}} {{pass.number}} {{now.date}} {{now.s}}')).toBe(
      `1 2 7 3 2026-11-25 ${Date.UTC(2026, 10, 25, 8) / 1000}`,
    )
    fc.assert(
      fc.property(fc.integer({ min: -50, max: 50 }), fc.nat(100), fc.nat(), (from, more, seed) => {
        const n = Number(
          render(`{{random.integer(${from}, ${from + more})}}`, ESCAPES.none, scope({ random: seededRandom(seed) })),
        )
        expect(n >= from && n <= from + more).toBe(true)
      }),
    )
  })

  it('tell their names', () => {
    expect(namesIn('{{a}} {{{b.c}}} {{a}} {{! d }}')).toEqual(['a', 'b.c'])
  })
})

describe('expressions', () => {
  it('give the first group, or the whole match', () => {
    expect(compileExpression('"id":(\\d+)').first('{"id":42}')).toBe('42')
    expect(compileExpression('\\d+').first('a 17 b')).toBe('17')
    expect(compileExpression('x').first('abc')).toBeUndefined()
  })

  it('never run for ever: a pattern that takes exponential time elsewhere is linear here (Thompson 1968; the text is the classic one)', () => {
    const began = performance.now()
    expect(compileExpression('(a+)+$').test(`${'a'.repeat(5000)}!`)).toBe(false)
    // 2^5000 steps would outlast the universe: any finite time proves it.
    expect(performance.now() - began).toBeLessThan(30_000)
  })

  it.each([
    ['(a', /./],
    ['(?=a)', /looking ahead/],
    ['(a)\\1', /references/],
    ['x'.repeat(1001), /at most 1000/],
  ])('that do not compile are refused: %s', (pattern, words) => {
    expect(() => compileExpression(pattern)).toThrow(ExpressionError)
    expect(() => compileExpression(pattern)).toThrow(words)
  })
})

describe('paths (RFC 9535, section 1.5: the bookstore and the results it states)', () => {
  const store = {
    store: {
      book: [
        { category: 'reference', author: 'Nigel Rees', title: 'Sayings of the Century', price: 8.95 },
        { category: 'fiction', author: 'Evelyn Waugh', title: 'Sword of Honour', price: 12.99 },
        { category: 'fiction', author: 'Herman Melville', title: 'Moby Dick', isbn: '0-553-21311-3', price: 8.99 },
        {
          category: 'fiction',
          author: 'J. R. R. Tolkien',
          title: 'The Lord of the Rings',
          isbn: '0-395-19395-8',
          price: 22.99,
        },
      ],
      bicycle: { color: 'red', price: 399 },
    },
  }
  it.each<[string, unknown]>([
    ['$.store.book[*].author', 'Nigel Rees'],
    ['$..author', 'Nigel Rees'],
    ['$.store..price', 399],
    ['$..book[2]', store.store.book[2]],
    ['$..book[2].author', 'Herman Melville'],
    ['$..book[2].publisher', undefined],
    ['$..book[-1]', store.store.book[3]],
    ['$..book[?@.isbn]', store.store.book[2]],
    ['$..book[?@.price<10]', store.store.book[0]],
    ['$.store.bicycle.color', 'red'],
    ['$[\'store\'][\'book\'][1][\'title\']', 'Sword of Honour'],
    ['$.store.book[9]', undefined],
    ['$.store.book.length', undefined],
  ])('%s', (path, expected) => {
    const found = compilePath(path).first(store)
    // The order among members of an object is free (RFC 9535 §2.5.2.2).
    if (path === '$.store..price') expect([399, 8.95]).toContain(found)
    else expect(found).toEqual(expected)
  })

  it('match and search run on the linear engine', () => {
    expect(
      compilePath('$[?match(@.a, "a.*b")].n').first([
        { a: 'xaab', n: 1 },
        { a: 'aab', n: 2 },
      ]),
    ).toBe(2)
    expect(compilePath('$[?search(@.a, "b+")].n').first([{ a: 'xaab', n: 1 }])).toBe(1)
    expect(compilePath('$[?search(@.a, "(a+)+$")]').first([{ a: `${'a'.repeat(3000)}!` }])).toBeUndefined()
  })

  it('walk plain paths as the library does', () => {
    fc.assert(
      fc.property(
        fc.jsonValue({ maxDepth: 3 }),
        fc.array(fc.oneof(fc.constantFrom('a', 'b', 'constructor', 'length'), fc.nat(2)), { maxLength: 3 }),
        (document, steps) => {
          const quick = `$${steps.map(s => (typeof s === 'number' ? `[${s}]` : `.${s}`)).join('')}`
          // A space makes it no plain path: the library's own walk.
          const slow = `$${steps.map(s => (typeof s === 'number' ? `[ ${s} ]` : `[ '${s}' ]`)).join('')} `.trim()
          expect(compilePath(quick).first(document)).toEqual(compilePath(slow).first(document))
        },
      ),
    )
  })

  it.each(['$.a[', 'a.b', '$..', '$[?@.a = 1]'])('that are none are refused: %s', (path) => {
    expect(() => compilePath(path)).toThrow(PathError)
  })
})
