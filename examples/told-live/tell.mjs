/**
 * Tells Vornak what this program measures, while it measures: lines of JSON, a batch a second. A batch whose answer did
 * not come is sent again under its number, and is counted once.
 *
 *   VORNAK=http://127.0.0.1:4700 TOKEN=vornak-stream_… node tell.mjs http://127.0.0.1:4710/api/search 20
 *
 * It sends an address a number of requests a second for half a minute (SECONDS says otherwise).
 */
const { VORNAK = 'http://127.0.0.1:4700', TOKEN, SECONDS = '30' } = process.env
const [url, perSecond = '10'] = process.argv.slice(2)
if (!TOKEN || !url) throw new Error('Give TOKEN, and the address to ask.')

let lines = []
// Only grows, also when this program is started again: a number that was there before is not counted again.
let batch = Date.now()
let told = 0

async function measure(user) {
  const began = performance.now()
  const line = { step: `GET ${new URL(url).pathname}`, duration: 0, ok: false, time: 0, user: `user ${user}` }
  try {
    const answer = await fetch(url, { signal: AbortSignal.timeout(10_000) })
    line.bytes = (await answer.arrayBuffer()).byteLength
    line.status = answer.status
    line.ok = answer.ok
  }
  catch (error) {
    line.message = String(error.cause?.code ?? error.message)
  }
  line.duration = performance.now() - began
  line.time = Date.now()
  lines.push(line)
}

const post = (path, body) =>
  fetch(`${VORNAK}/api/told/${path}`, { method: 'POST', headers: { authorization: `Bearer ${TOKEN}` }, body })

async function tell() {
  if (lines.length === 0) return
  const now = lines
  lines = []
  batch++
  told++
  const body = now.map(line => JSON.stringify(line)).join('\n')
  for (let tried = 0; ; tried++) {
    const answer = await post(`lines?batch=${batch}&sentAt=${Date.now()}`, body).catch(() => undefined)
    if (answer?.ok) {
      for (const { line, sentence } of (await answer.json()).faults) console.error(`line ${line}: ${sentence}`)
      return
    }
    // Anything but “not now” would be the same again.
    if (answer && answer.status !== 503) throw new Error((await answer.json()).sentence)
    if (tried === 120) throw new Error(`Batch ${batch} was not taken.`)
    await new Promise(resolve => setTimeout(resolve, 500))
  }
}

const end = Date.now() + Number(SECONDS) * 1000
const under = []
const telling = (async () => {
  while (Date.now() < end) {
    await new Promise(resolve => setTimeout(resolve, 1000))
    await tell()
  }
})()
for (let n = 0; Date.now() < end; n++) {
  under.push(measure(n % Number(perSecond)))
  await new Promise(resolve => setTimeout(resolve, 1000 / Number(perSecond)))
}
await Promise.all(under)
await telling
await tell()
await post('end', '{}')
console.log(`${told} batches were told.`)
