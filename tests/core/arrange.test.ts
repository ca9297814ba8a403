import fc from 'fast-check'
import { reactive } from 'vue'
import {
  addStep,
  duplicateStep,
  freeName,
  moveStep,
  namesOf,
  neighbourOf,
  removeStep,
  renameStep,
  type StepPosition,
} from '../../core/journey/arrange'
import { STAGES, type HttpJourney } from '../../core/journey/journey'
import { problemsOfJourney } from '../../core/journey/problems'
import { enrolmentJourney } from '../build/enrolment'
import { journey, step } from '../build/plans'

const order = (j: HttpJourney) => STAGES.map(stage => j[stage].map(s => s.name))

describe('arranging steps', () => {
  it('adds after the chosen one, or at the end, under a free name', () => {
    const j = journey()
    expect(addStep(j, 'round', 'request', { stage: 'round', at: 0 })).toEqual({ stage: 'round', at: 1 })
    expect(addStep(j, 'opening', 'bundle', { stage: 'round', at: 0 })).toEqual({ stage: 'opening', at: 0 })
    expect(addStep(j, 'round', 'request')).toEqual({ stage: 'round', at: 3 })
    expect(order(j)).toEqual([['Bundle'], ['Look', 'Step', 'Ask', 'Step 2'], []])
    expect(problemsOfJourney(j, { feeds: {}, target: undefined })).toEqual([])
  })

  it('doubles a bundle with all its requests, every name its own', () => {
    const j = enrolmentJourney()
    expect(duplicateStep(j, { stage: 'round', at: 1 })).toEqual({ stage: 'round', at: 2 })
    expect([...namesOf(j)].filter(n => n.startsWith('p') || n.startsWith('P'))).toEqual([
      'Page files',
      'portal.css',
      'portal.js',
      'Page files 2',
      'portal.css 2',
      'portal.js 2',
    ])
    expect(duplicateStep(j, { stage: 'round', at: 2 })).toEqual({ stage: 'round', at: 3 })
    expect(j.round[3]!.name).toBe('Page files 3')
    expect(problemsOfJourney(j, { feeds: { students: ['name'] }, target: { password: '' } })).toEqual([])
  })

  it('works on a screen’s state as well, which is made of proxies', () => {
    const j = reactive(journey())
    expect(duplicateStep(j, { stage: 'round', at: 0 })).toEqual({ stage: 'round', at: 1 })
    expect(order(j)[1]).toEqual(['Look', 'Look 2', 'Ask'])
  })

  it('moves from stage to stage at the ends, and stays where there is no further', () => {
    const j = journey({ opening: [step({ name: 'In' })] })
    let at: StepPosition = { stage: 'round', at: 1 }
    const names = [1, 1, -1, -1, -1, -1, -1].map((by) => {
      at = moveStep(j, at, by as 1 | -1)
      return `${at.stage} ${at.at}`
    })
    expect(names).toEqual(['closing 0', 'closing 0', 'round 1', 'round 0', 'opening 1', 'opening 0', 'opening 0'])
    expect(order(j)).toEqual([['Ask', 'In'], ['Look'], []])
  })

  it('chooses a neighbour when one is taken out', () => {
    const j = journey()
    expect(removeStep(j, { stage: 'round', at: 1 })).toEqual({ stage: 'round', at: 0 })
    expect(removeStep(j, { stage: 'round', at: 0 })).toBeUndefined()
  })

  it('walks over the stages', () => {
    const j = journey({ closing: [step({ name: 'Out' })] })
    expect(neighbourOf(j, { stage: 'round', at: 1 }, 1)).toEqual({ stage: 'closing', at: 0 })
    expect(neighbourOf(j, { stage: 'closing', at: 0 }, 1)).toEqual({ stage: 'closing', at: 0 })
    expect(neighbourOf(j, undefined, 1)).toEqual({ stage: 'round', at: 0 })
    expect(neighbourOf(journey({ round: [] }), undefined, 1)).toBeUndefined()
  })

  it('renames, and spans keep hold', () => {
    const j = enrolmentJourney()
    renameStep(j, { stage: 'round', at: 2 }, 'Ticket')
    expect(j.spans!.map(s => [s.from, s.to])).toEqual([
      ['Ticket', 'Enrol'],
      ['Ticket', 'Enrol'],
    ])
  })

  it('numbers a name from what it has already', () => {
    const j = journey({ round: [step({ name: 'Look 2' }), step({ name: 'Look' })] })
    expect([freeName(j, 'Look'), freeName(j, 'Look 2'), freeName(j, 'New')]).toEqual(['Look 3', 'Look 3', 'New'])
  })

  it('never loses or doubles a name, whatever is done', () => {
    const act = fc.record({
      what: fc.constantFrom('add', 'bundle', 'double', 'up', 'down', 'remove'),
      stage: fc.constantFrom(...STAGES),
      at: fc.nat(5),
    })
    fc.assert(
      fc.property(fc.array(act, { maxLength: 25 }), (acts) => {
        const j = enrolmentJourney()
        let count = STAGES.reduce((n, s) => n + j[s].length, 0)
        for (const { what, stage, at } of acts) {
          if (what === 'add' || what === 'bundle') {
            addStep(j, stage, what === 'bundle' ? 'bundle' : 'request')
            count++
            continue
          }
          if (at >= j[stage].length) continue
          if (what === 'double') {
            duplicateStep(j, { stage, at })
            count++
          }
          if (what === 'up' || what === 'down') moveStep(j, { stage, at }, what === 'up' ? -1 : 1)
          if (what === 'remove') {
            removeStep(j, { stage, at })
            count--
          }
        }
        expect(STAGES.reduce((n, s) => n + j[s].length, 0)).toBe(count)
        const all = STAGES.flatMap(s =>
          j[s].flatMap(x => ['requests' in x ? x.requests.map(r => r.name) : [], [x.name]].flat()),
        )
        expect(new Set(all).size).toBe(all.length)
      }),
    )
  })
})
