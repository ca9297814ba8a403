/** Debian's metrics server, as a child process that reads one page each second. */
import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { freePort } from '../../scripts/ports.cjs'

const PROGRAM = '/usr/bin/prometheus'
const READY_MS = 20_000

export class RealMetricsServer {
  private constructor(
    private readonly child: ChildProcess,
    private readonly folder: string,
    /** `host:port` */
    readonly host: string,
  ) {}

  get address(): string {
    return `http://${this.host}`
  }

  /** @param pages `host:port` of each page it reads @param everyS how often @param path of the pages */
  static async start(pages: readonly string[], everyS = 1, path = '/metrics'): Promise<RealMetricsServer> {
    const folder = mkdtempSync(join(tmpdir(), 'metrics-server-'))
    const port = await freePort()
    writeFileSync(
      join(folder, 'config.yml'),
      [
        'global:',
        `  scrape_interval: ${everyS}s`,
        `  scrape_timeout: ${everyS}s`,
        'scrape_configs:',
        '  - job_name: portal',
        `    metrics_path: ${path}`,
        '    static_configs:',
        `      - targets: [${pages.map(p => `"${p}"`).join(', ')}]`,
      ].join('\n'),
    )
    const child = spawn(
      PROGRAM,
      [
        `--config.file=${join(folder, 'config.yml')}`,
        `--storage.tsdb.path=${join(folder, 'data')}`,
        `--web.listen-address=127.0.0.1:${port}`,
        '--log.level=error',
      ],
      { stdio: 'ignore' },
    )
    const server = new RealMetricsServer(child, folder, `127.0.0.1:${port}`)
    const giveUpAt = Date.now() + READY_MS
    while (!(await fetch(`${server.address}/-/ready`).then(r => r.ok, () => false))) {
      if (Date.now() > giveUpAt || child.exitCode !== null) throw new Error('the metrics server does not start')
      await new Promise(r => setTimeout(r, 100))
    }
    return server
  }

  async stop(): Promise<void> {
    if (this.child.exitCode === null) {
      const ended = new Promise(r => this.child.once('exit', r))
      this.child.kill()
      await ended
    }
    rmSync(this.folder, { recursive: true, force: true })
  }
}
