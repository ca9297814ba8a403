/**
 * A small command journey: as many users as it is told, each asking the target again and again. Shows what Vornak says
 * to a command (its environment) and what a command says to Vornak (one JSON object a line on standard output). Pack it
 * with: tar -czf kit.tgz -C examples/command-kit .
 */
import { writeFileSync } from 'node:fs'

const { VORNAK_USERS, VORNAK_RAMP_S, VORNAK_LENGTH_S, VORNAK_TARGET, VORNAK_RUN } = process.env
const users = Number(VORNAK_USERS)
const endsAt = Date.now() + Number(VORNAK_LENGTH_S) * 1000
let stopping = false
process.on('SIGTERM', () => {
  stopping = true
})
let asked = 0

async function user(number) {
  await new Promise(r => setTimeout(r, (number / users) * Number(VORNAK_RAMP_S) * 1000))
  while (!stopping && Date.now() < endsAt) {
    const began = performance.now()
    let ok = false
    let bytes = 0
    let message
    try {
      const answer = await fetch(`${VORNAK_TARGET}/timetable`, {
        headers: { 'vornak-run': VORNAK_RUN, 'vornak-step': 'Look' },
      })
      bytes = (await answer.text()).length
      ok = answer.status === 200
      message = ok ? '' : `status ${answer.status}`
    }
    catch (error) {
      message = String(error)
    }
    asked++
    console.log(
      JSON.stringify({ time: Date.now(), step: 'Look', duration: performance.now() - began, ok, bytes, message }),
    )
    await new Promise(r => setTimeout(r, 200))
  }
}

console.error(`${users} users against ${VORNAK_TARGET}`)
await Promise.all(Array.from({ length: users }, (_, i) => user(i)))
writeFileSync('asked.txt', `${asked}\n`)
console.error(`asked ${asked} times`)
