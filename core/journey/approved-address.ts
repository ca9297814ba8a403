/**
 * Whether load may go to an address that an approved host's name stands for. The owner of a name can point it anywhere;
 * so what is private is named in the approval, as an address or by its range, and what is never a target is refused in
 * any case. Which ranges are what: the special-purpose registries of RFC 6890, as ipaddr.js knows them.
 */
import ipaddr from 'ipaddr.js'

/** Private addresses an approval names: ranges, or single ones. */
export interface ApprovedRanges {
  addressRanges?: readonly string[] | undefined
}

type Address = ipaddr.IPv4 | ipaddr.IPv6

/** Reachable from anywhere. */
const PUBLIC = ['unicast', 'as112', 'as112v6', 'amt']
/** Never a target: it is the network's own, everybody's, or nobody's. */
const NEVER: Readonly<Record<string, string>> = {
  linkLocal: 'link-local',
  multicast: 'multicast',
  broadcast: 'broadcast',
  unspecified: 'unspecified',
}

/**
 * @param host `host:port` as approved
 * @param address what its name stands for, or the host itself where that is an address
 * @returns what is wrong, for a person; undefined: nothing
 */
export function addressFault(
  host: string,
  address: string,
  { addressRanges = [] }: ApprovedRanges,
): string | undefined {
  if (!ipaddr.isValid(address)) return `${host}: “${address}” is no address`
  const given = ipaddr.parse(address)
  const meant = unwrapped(given)
  const range = meant.range()
  const never = NEVER[range]
  const itself = sameAddress(host, given)
  const says = itself ? `${host} is` : `${host} stands for`
  if (never) return `${says} the ${never} address ${address}`
  if (PUBLIC.includes(range) || itself) return undefined
  if (addressRanges.some(r => inRange(given, r) || inRange(meant, r))) return undefined
  return `${host} stands for the private address ${address}, which the approval does not name: add ${rangeOf(meant)} to its address ranges`
}

/**
 * What of a name may be connected to.
 *
 * @param host `host:port` as approved, or the name alone @returns those of the addresses; where there is none, why
 */
export function approvedOf<A extends { address: string }>(
  host: string,
  addresses: readonly A[],
  approved: ApprovedRanges,
): { good: A[], fault: string } {
  const faults = addresses.map(({ address }) => addressFault(host, address, approved))
  return {
    good: addresses.filter((_, i) => faults[i] === undefined),
    fault: faults.find(f => f !== undefined) ?? `${host} stands for no address`,
  }
}

/** The smallest range an address is in: itself. */
const rangeOf = (address: Address): string => `${address.toString()}/${address.kind() === 'ipv4' ? 32 : 128}`

/** The range that would allow what was refused, read off its sentence. */
export const rangeNamedIn = (fault: string): string | undefined => / add (\S+\/\d+) to its address ranges/.exec(fault)?.[1]

/** Whether a text is a range, `10.1.0.0/16`, or one address. */
export const isAddressRange = (text: string): boolean =>
  ipaddr.isValidCIDR(text) || ipaddr.IPv4.isValidFourPartDecimal(text) || ipaddr.IPv6.isValid(text)

function inRange(address: Address, range: string): boolean {
  if (!isAddressRange(range)) return false
  const [network, bits] = ipaddr.isValidCIDR(range)
    ? ipaddr.parseCIDR(range)
    : [ipaddr.parse(range), ipaddr.parse(range).kind() === 'ipv4' ? 32 : 128]
  // Both are of one kind, which its types want to know beforehand.
  return network.kind() === address.kind() && address.match([network, bits] as never)
}

/** `[::1]:80` and `127.0.0.1:80` name an address themselves. */
function sameAddress(host: string, address: Address): boolean {
  const name = host.slice(0, host.lastIndexOf(':')).replace(/^\[|\]$/g, '')
  return ipaddr.isValid(name) && ipaddr.parse(name).toNormalizedString() === address.toNormalizedString()
}

/**
 * The IPv4 address another one carries: IPv4-mapped (RFC 4291, 2.5.5.2), NAT64 (RFC 6052; RFC 8215 for use at one
 * place), 6to4 (RFC 3056).
 */
function unwrapped(address: Address): Address {
  if (address.kind() === 'ipv4') return address
  // Of the two kinds it is the other.
  const v6 = address as ipaddr.IPv6
  if (v6.isIPv4MappedAddress()) return v6.toIPv4Address()
  const bytes = v6.toByteArray()
  const embeddedAt = (offset: number) => new ipaddr.IPv4(bytes.slice(offset, offset + 4))
  if (NAT64.some(network => v6.match(network))) return embeddedAt(12)
  if (v6.range() === '6to4') return embeddedAt(2)
  return v6
}

const NAT64 = ['64:ff9b::/96', '64:ff9b:1::/48'].map(cidr => ipaddr.IPv6.parseCIDR(cidr))
