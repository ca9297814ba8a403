/** Debian's mail server on a port of its own: who sends signs in; what it takes stands in files. */
import { spawn, spawnSync, type ChildProcess } from 'node:child_process'
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { freePort, listens } from '../../scripts/ports.cjs'
import { until } from './house'

const PROGRAM = '/usr/sbin/exim4'
const USER = 'Debian-exim'

export class RealMailServer {
  port = 0
  private child: ChildProcess | undefined
  /** It runs as a user of its own, who has to get here. */
  private readonly folder = mkdtempSync(join(tmpdir(), 'vornak-mail-'))

  async start(): Promise<this> {
    this.port = await freePort()
    for (const name of ['mail', 'spool']) mkdirSync(join(this.folder, name), { recursive: true })
    const config = join(this.folder, 'config')
    writeFileSync(config, configIn(this.folder))
    chmodSync(this.folder, 0o755)
    spawnSync('chown', ['-R', USER, join(this.folder, 'mail'), join(this.folder, 'spool')])
    this.child = spawn(PROGRAM, ['-C', config, '-bdf', '-oX', `127.0.0.1:${this.port}`], { stdio: 'ignore' })
    await until(() => listens(this.port), 10_000, 'the mail server to listen')
    return this
  }

  /** As they came, the oldest first. */
  mails(): string[] {
    const folder = join(this.folder, 'mail', 'new')
    return existsSync(folder) ? readdirSync(folder).sort().map(name => readFileSync(join(folder, name), 'utf8')) : []
  }

  stop(): void {
    this.child?.kill()
    rmSync(this.folder, { recursive: true, force: true })
  }
}

const configIn = (folder: string) => `
primary_hostname = mail.example
spool_directory = ${folder}/spool
log_file_path = ${folder}/spool/%slog
pid_file_path = ${folder}/spool/pid
local_interfaces = 127.0.0.1
tls_advertise_hosts =
keep_environment =
acl_smtp_rcpt = rcpt
acl_smtp_data = data
begin acl
rcpt:
  deny local_parts = nobody
       message = nobody of this name
  accept authenticated = *
  deny message = sign in first
data:
  accept
begin routers
all:
  driver = accept
  transport = kept
begin transports
kept:
  driver = appendfile
  directory = ${folder}/mail
  maildir_format
  user = ${USER}
begin authenticators
plain:
  driver = plaintext
  public_name = PLAIN
  server_prompts = :
  server_condition = \${if and{{eq{$auth2}{vornak}}{eq{$auth3}{made-up}}}}
  server_set_id = $auth2
  server_advertise_condition = *
`
