/**
 * Which addresses an approved name may stand for. Ranges are those of IANA's special-purpose address registries (RFC
 * 6890), whose examples stand beside each.
 */
import { addressFault, isAddressRange, rangeNamedIn } from '../../core/journey/approved-address'

const fault = (address: string, addressRanges: string[] = [], host = 'shop.example:443') =>
  addressFault(host, address, { addressRanges })

describe('what an approved name may stand for', () => {
  it.each([
    ['public', '93.184.215.14'],
    ['public, IPv6', '2606:2800:21f:cb07:6820:80da:af6b:8b2c'],
    ['public, through NAT64 (RFC 6052, 2.1)', '64:ff9b::5db8:d70e'],
  ])('is %s: %s', (_, address) => {
    expect(fault(address)).toBeUndefined()
  })

  it.each([
    ['RFC 1918', '10.0.0.1', '10.0.0.0/8'],
    ['RFC 1918', '172.31.255.254', '172.16.0.0/12'],
    ['RFC 1918', '192.168.1.1', '192.168.0.0/16'],
    ['loopback, RFC 1122', '127.0.0.1', '127.0.0.0/8'],
    ['shared, RFC 6598', '100.64.0.1', '100.64.0.0/10'],
    ['unique local, RFC 4193', 'fd12:3456:789a::1', 'fd00::/8'],
    ['loopback, RFC 4291', '::1', '::1'],
    ['IPv4-mapped, RFC 4291', '::ffff:10.0.0.1', '10.0.0.0/8'],
    ['through NAT64, RFC 6052', '64:ff9b::10.0.0.1', '10.0.0.0/8'],
    ['through NAT64 of one place, RFC 8215', '64:ff9b:1::a00:1', '10.0.0.1'],
    ['6to4, RFC 3056', '2002:a00:1::1', '10.0.0.0/8'],
  ])('is private (%s: %s) only where the approval names it', (_, address, range) => {
    expect(fault(address)).toContain('which the approval does not name')
    expect(fault(address, [range])).toBeUndefined()
    expect(fault(address, ['192.0.2.0/24'])).toContain('which the approval does not name')
    // What the sentence offers is what allows it.
    const offered = rangeNamedIn(fault(address)!)!
    expect(isAddressRange(offered)).toBe(true)
    expect(fault(address, [offered])).toBeUndefined()
  })

  it.each([
    ['link-local, RFC 3927', '169.254.169.254'],
    ['link-local, RFC 4291', 'fe80::1'],
    ['link-local, RFC 4291', 'FEBF::1'],
    ['link-local, mapped', '::ffff:169.254.169.254'],
    ['link-local, through NAT64', '64:ff9b::169.254.169.254'],
    ['link-local, 6to4', '2002:a9fe:a9fe::1'],
    ['multicast, RFC 5771', '224.0.0.1'],
    ['multicast, RFC 4291', 'ff02::1'],
    ['broadcast, RFC 919', '255.255.255.255'],
    ['unspecified, RFC 1122', '0.0.0.0'],
    ['unspecified, RFC 4291', '::'],
  ])('is never %s: %s, whatever is approved', (_, address) => {
    expect(fault(address, ['0.0.0.0/0', '::/0'])).toBeDefined()
    expect(fault(address, [], address.includes(':') ? `[${address}]:80` : `${address}:80`)).toBeDefined()
  })

  it('is the address itself, where the approval names that as its host', () => {
    expect(fault('127.0.0.1', [], '127.0.0.1:4710')).toBeUndefined()
    expect(fault('::1', [], '[0:0::1]:80')).toBeUndefined()
    expect(fault('127.0.0.2', [], '127.0.0.1:4710')).toBeDefined()
  })

  it('is nothing that is no address, by no range that is none', () => {
    expect(fault('x')).toContain('is no address')
    expect(fault('10.0.0.1', ['10.0.0.0/99', 'all', '10'])).toBeDefined()
    expect(['10.0.0.0/8', 'fd00::/8', '10.1.2.3', '::1'].map(isAddressRange)).toEqual([true, true, true, true])
    expect(['10.0.0.0/33', '10', 'all', '10.0.0.0/-1', ''].map(isAddressRange)).toEqual([false, false, false, false, false])
  })
})
