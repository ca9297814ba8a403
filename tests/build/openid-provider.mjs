/**
 * A real OpenID provider on 127.0.0.1, of a certified library: anyone who signs in with a name is vouched for, with the
 * groups that stand in the name after a dash. Arguments: port, address people are led back to, client, secret.
 */
import Provider from 'oidc-provider'

const [port, back, client, secret] = process.argv.slice(2)
const provider = new Provider(`http://127.0.0.1:${port}`, {
  clients: [{ client_id: client, client_secret: secret, redirect_uris: [back], response_types: ['code'] }],
  claims: { openid: ['sub'], profile: ['name'], groups: ['groups'] },
  scopes: ['openid', 'profile', 'groups'],
  pkce: { required: () => true },
  cookies: { keys: ['made-up-for-tests'] },
  findAccount: (_, id) => ({
    accountId: id,
    claims: () => ({ sub: id, name: id.split('-')[0], groups: id.split('-').slice(1) }),
  }),
})
provider.listen(Number(port), '127.0.0.1')
