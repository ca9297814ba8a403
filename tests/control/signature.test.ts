/** Signatures of what programs are told: against the worked example of RFC 9421, and RFC 9530's digests. */
import { contentDigest, macOf, signatureBase, signatureHeaders } from '../../control/dispatch/signature'

/** RFC 9421, B.1.5: the shared secret of its examples. */
const RFC_KEY = Buffer.from(
  'uzvJfB4u3N0Jy4T7NZ75MDVcr8zSTInedJtkgcu46YW4XByzNJjxBdtjUkdJPBtbmHhIDi6pcl8jsasjlTMtDQ==',
  'base64',
)

it('is that of RFC 9421, B.2.5: “Signing a Request using hmac-sha256”', () => {
  const base = signatureBase(
    [
      ['date', 'Tue, 20 Apr 2021 02:07:55 GMT'],
      ['@authority', 'example.com'],
      ['content-type', 'application/json'],
    ],
    '("date" "@authority" "content-type");created=1618884473;keyid="test-shared-secret"',
  )
  expect(base).toBe(
    `"date": Tue, 20 Apr 2021 02:07:55 GMT
"@authority": example.com
"content-type": application/json
"@signature-params": ("date" "@authority" "content-type");created=1618884473;keyid="test-shared-secret"`,
  )
  expect(macOf(base, RFC_KEY)).toBe('pxcQw6G3AjtMBQjwo8XzkZf/bws5LelbaMk5rGIGtE8=')
})

it('digests content as RFC 9530, appendix D, does', () => {
  expect(contentDigest('{"hello": "world"}\n')).toBe('sha-256=:RK/0qy18MlBSVnWgjwz6lZEWjP/lF5HF9bvEF8FabDg=:')
})

it('covers method, address, type and content; each of them changes it', () => {
  const request = {
    method: 'POST', address: 'https://gate.example/runs', contentType: 'application/json', content: '{}', created: 1, keyId: 'gate',
  }
  const signed = signatureHeaders(request, 'k')
  expect(signed['signature-input']).toBe(
    'vornak=("@method" "@target-uri" "content-type" "content-digest");created=1;keyid="gate";alg="hmac-sha256"',
  )
  const others = [{ method: 'PUT' }, { address: 'https://gate.example/' }, { contentType: 'text/plain' }, { content: '[]' }, { created: 2 }]
  const all = [signed, ...others.map(o => signatureHeaders({ ...request, ...o }, 'k')), signatureHeaders(request, 'l')].map(h => h.signature)
  expect(new Set(all).size).toBe(all.length)
})
