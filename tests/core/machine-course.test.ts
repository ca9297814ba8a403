import { NO_HEALTH, SIGNAL_LIMITS } from '../../core/capacity/signals'
import { machineCourse, machineRecord, type WorkerSecond } from '../../core/run/machine-course'

const told = (second: number, users: number, cpuShare: number, scheduleLagP99Ms = 1): WorkerSecond => ({
  second,
  users,
  health: { ...NO_HEALTH, cpuShare, scheduleLagP99Ms },
})
/** Two workers, in no order; nobody told of second 3. */
const WORKERS = [
  told(5, 4, 0.3),
  told(2, 10, 0.2, 40),
  told(2, 7, 0.5),
  told(4, 8, 0.9),
  told(4, 8, 0.1),
]

it('a record has the workers’ users together, the worst of their signals, and the seconds over a limit', () => {
  expect(machineRecord(7, WORKERS)).toEqual({
    generator: 7,
    firstS: 2,
    lastS: 5,
    usersAtMost: 17,
    // A lag of 40 ms of 10, then a CPU share of 0.9 of 0.75.
    overS: 2,
    worst: { signal: 'scheduleLagP99Ms', value: 40, second: 2 },
  })
  expect(SIGNAL_LIMITS).toMatchObject({ scheduleLagP99Ms: 10, cpuShare: 0.75 })
  expect(machineRecord(0, [])).toBeUndefined()
})

it('a course has a point for each second of the window, and none where nobody told', () => {
  const course = machineCourse(WORKERS, { fromS: 2, toS: 6 }, 100)
  expect(course.binS).toBe(1)
  expect(course.users).toEqual([17, null, 16, 4])
  expect(course.signals.cpuShare).toEqual([0.5, null, 0.9, 0.3])
})

it('a long window is told in bins, the largest of each: no peak is lost', () => {
  const long = Array.from({ length: 1000 }, (_, s) => told(s, 1, s === 777 ? 0.99 : 0.1))
  const course = machineCourse(long, { fromS: 0, toS: 1000 }, 60)
  expect([course.binS, course.users.length]).toEqual([17, 59])
  expect(course.signals.cpuShare[Math.floor(777 / 17)]).toBe(0.99)
  expect(course.signals.cpuShare.filter(v => v === 0.99)).toHaveLength(1)
})
