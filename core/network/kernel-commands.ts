/**
 * A profile as commands for the kernel of a Linux host (tc with netem, iproute2): for private hosts where the target's
 * kernel must see the loss. They shape the whole machine, both ways through its interface, and need its administrator.
 */
import type { NetworkProfile } from './profile'

/** @param device the interface towards the target */
export function kernelCommands({ latencyMs, jitterMs, loss, downBps, upBps }: NetworkProfile, device = 'eth0'): string {
  const half = (ms: number) => `${Number((ms / 2).toFixed(3))}ms`
  // Jitter is half the variance each way, as in the shaper.
  const jitter = jitterMs > 0 ? ` ${Number((jitterMs * Math.SQRT1_2).toFixed(3))}ms distribution normal` : ''
  const lost = loss > 0 ? ` loss ${Number((loss * 100).toFixed(4))}%` : ''
  const rate = (bps: number | undefined) => (bps === undefined ? '' : ` rate ${Math.round(bps / 1000)}kbit`)
  const netem = (bps: number | undefined) => `netem delay ${half(latencyMs)}${jitter}${lost}${rate(bps)} limit 100000`
  return [
    '# what the machine sends',
    `tc qdisc replace dev ${device} root ${netem(upBps)}`,
    '# what it receives, led through a second device',
    'ip link add ifb0 type ifb && ip link set ifb0 up',
    `tc qdisc replace dev ${device} handle ffff: ingress`,
    `tc filter replace dev ${device} parent ffff: matchall action mirred egress redirect dev ifb0`,
    `tc qdisc replace dev ifb0 root ${netem(downBps)}`,
    '# back to how it was',
    `tc qdisc del dev ${device} root; tc qdisc del dev ${device} ingress; ip link del ifb0`,
  ].join('\n')
}
