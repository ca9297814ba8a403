/**
 * The portal's site, for browsers and for journeys that do what browsers do: a page with its files, sign-in with a
 * cookie, a token to take along, a JSON API, a redirect. Under overload some answers are wrong although their status
 * says 200, as careless systems do it.
 */
import { createHash } from 'node:crypto'
import type { IncomingMessage } from 'node:http'

/** What is answered. */
export interface Page {
  status: number
  type: string
  body: string
  headers?: Record<string, string | string[]>
}

/** A request as the site sees it. */
export interface Visit {
  request: IncomingMessage
  path: string
  query: URLSearchParams
  body: string
  overloaded: boolean
}

/** Mean service time of each page, ms; what is not listed needs no worker. */
export const SITE_SERVICE_MS: Record<string, number> = {
  'GET /portal': 12,
  'GET /sign-in': 8,
  'POST /sign-in': 18,
  'GET /api/token': 6,
  'GET /api/modules': 22,
  'POST /api/enrolments': 45,
  'GET /api/enrolments': 15,
  'GET /start': 3,
}

/** Sessions that are open at most; the oldest go. */
const MOST_SESSIONS = 200_000
/** The module handbook comes in any length: to see what a line makes of it. */
const MOST_HANDBOOK_KB = 2000
const HANDBOOK = 'Read this before you choose. '.repeat(Math.ceil((MOST_HANDBOOK_KB * 1000) / 29))
const MODULES = Array.from({ length: 24 }, (_, i) => ({ code: `OSU-${1100 + i}`, title: `Module ${i + 1}`, seats: 30 }))
const STYLE =
  'body{font:16px/1.5 system-ui,sans-serif;margin:2rem auto;max-width:44rem;color:#222}table{border-collapse:collapse}td{padding:.2rem .8rem;border-bottom:1px solid #ddd}button{padding:.3rem .8rem}'
const SCRIPT = `const t=await(await fetch('/api/token',{method:'GET'})).json();
const m=await(await fetch('/api/modules?term=autumn',{headers:{'x-enrolment-token':t.token}})).json();
const b=document.querySelector('tbody');for(const x of m.modules.slice(0,8)){const r=b.insertRow();r.insertCell().textContent=x.code;r.insertCell().textContent=x.title;const e=r.insertCell().appendChild(document.createElement('button'));e.textContent='Enrol';
e.onclick=async()=>{const a=await(await fetch('/api/enrolments',{method:'POST',headers:{'content-type':'application/json','x-enrolment-token':t.token},body:JSON.stringify({module:x.code,form:document.querySelector('[name=form]').value})})).json();document.querySelector('#said').textContent=a.enrolled?'Enrolled in '+x.code+' ('+a.receipt+')':'Please wait'}}`

export class Site {
  private readonly sessions = new Map<string, { student: string, token: string }>()
  private count = 0
  /** Students who enrolled, and how often: what an account that may be used once is held against. */
  readonly students = new Map<string, number>()

  constructor(private readonly seed: number) {}

  /** @returns undefined for what is not the site's */
  answer({ request, path, query, body, overloaded }: Visit): Page | undefined {
    const session = this.sessions.get(/(?:^|;\s*)session=([\w-]+)/.exec(request.headers.cookie ?? '')?.[1] ?? '')
    switch (`${request.method} ${path}`) {
      case 'GET /start':
        return { status: 302, type: 'text/plain', body: 'see the portal', headers: { location: '/portal' } }
      case 'GET /portal':
        return session
          ? html(this.portalPage(session.student))
          : { status: 302, type: 'text/plain', body: 'sign in first', headers: { location: '/sign-in' } }
      case 'GET /sign-in':
        return html(SIGN_IN)
      case 'POST /sign-in':
        return this.signIn(new URLSearchParams(body))
      case 'GET /portal.css':
        return file('text/css', STYLE)
      case 'GET /portal.js':
        return file('text/javascript', SCRIPT)
      case 'GET /crest.svg':
        return file(
          'image/svg+xml',
          '<svg xmlns="http://www.w3.org/2000/svg" width="32" height="32"><path d="M4 4h24v14l-12 10L4 18z" fill="#345"/></svg>',
        )
      case 'GET /handbook':
        return file(
          'text/plain',
          HANDBOOK.slice(0, Math.min(MOST_HANDBOOK_KB, Math.max(1, Number(query.get('kb')) || 100)) * 1000),
        )
      case 'GET /favicon.ico':
        return { status: 204, type: 'image/x-icon', body: '' }
      case 'GET /api/token':
        return session
          ? json(200, { token: session.token, student: session.student })
          : json(401, { error: 'sign in first' })
      case 'GET /api/modules': {
        if (!session || request.headers['x-enrolment-token'] !== session.token)
          return json(403, { error: 'the token is missing or not yours' })
        return json(200, { term: query.get('term') ?? 'autumn', modules: MODULES })
      }
      case 'POST /api/enrolments':
        return this.enrol(session, String(request.headers['x-enrolment-token'] ?? ''), body, overloaded)
      case 'GET /api/enrolments':
        return json(200, { enrolments: session ? (this.students.get(session.student) ?? 0) : 0 })
      default:
        return undefined
    }
  }

  private signIn(form: URLSearchParams): Page {
    const student = form.get('student') ?? ''
    if (!/^[\w.@-]{1,60}$/.test(student) || (form.get('password') ?? '') === '')
      return { ...html(SIGN_IN), status: 401 }
    const id = this.mark('session', ++this.count)
    const [oldest] = this.sessions.keys()
    if (oldest !== undefined && this.sessions.size >= MOST_SESSIONS) this.sessions.delete(oldest)
    this.sessions.set(id, { student, token: this.mark('token', this.count) })
    return {
      status: 303,
      type: 'text/plain',
      body: 'signed in',
      headers: { location: '/portal', 'set-cookie': `session=${id}; Path=/; HttpOnly; SameSite=Lax` },
    }
  }

  private enrol(
    session: { student: string, token: string } | undefined,
    token: string,
    body: string,
    overloaded: boolean,
  ): Page {
    if (!session || token !== session.token) return json(403, { error: 'the token is missing or not yours' })
    let module: unknown
    try {
      // Whatever it is, it is looked at below.
      module = (JSON.parse(body) as { module?: unknown }).module
    }
    catch {
      return json(400, { error: 'the body is no JSON' })
    }
    if (!MODULES.some(m => m.code === module)) return json(404, { error: 'there is no such module' })
    // The careless answer: a status that says all is well, and a body that says it is not.
    if (overloaded) return json(200, { enrolled: false, message: 'please wait' })
    this.students.set(session.student, (this.students.get(session.student) ?? 0) + 1)
    return json(200, { enrolled: true, module, receipt: this.mark('receipt', ++this.count) })
  }

  private portalPage(student: string): string {
    return `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Enrolment portal</title><link rel="stylesheet" href="/portal.css"><link rel="icon" href="/favicon.ico"></head><body><h1><img src="/crest.svg" alt=""> Enrolment</h1><p>Signed in as ${student}. <span id="said"></span></p><input type="hidden" name="form" value="${this.mark('form', ++this.count)}"><table><tbody></tbody></table><script type="module" src="/portal.js"></script></body></html>`
  }

  /** A mark that nobody guesses from the one before, and that a seed repeats. */
  private mark(kind: string, n: number): string {
    return createHash('sha256').update(`${this.seed} ${kind} ${n}`).digest('hex').slice(0, 24)
  }
}

const SIGN_IN =
  '<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Sign in</title><link rel="stylesheet" href="/portal.css"><link rel="icon" href="/favicon.ico"></head><body><h1><img src="/crest.svg" alt=""> Ostervik University</h1><form method="post" action="/sign-in"><label>Student <input name="student" required></label> <label>Password <input name="password" type="password" required></label> <button>Sign in</button></form></body></html>'

function html(body: string): Page {
  return { status: 200, type: 'text/html; charset=utf-8', body }
}
function json(status: number, value: object): Page {
  return { status, type: 'application/json', body: JSON.stringify(value) }
}
function file(type: string, body: string): Page {
  return { status: 200, type, body, headers: { 'cache-control': 'no-cache' } }
}
