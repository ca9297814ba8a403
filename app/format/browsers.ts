/** What a browser calls itself, as people call it. */
import bowser from 'bowser'

/** `Chrome 150 on Linux`; what is not known is said as it is. */
export function browserName(agent: string): string {
  const { browser, os } = bowser.parse(agent || 'unknown')
  if (!browser.name) return agent || 'unknown'
  return `${browser.name} ${browser.version?.split('.')[0] ?? ''}${os.name ? ` on ${os.name}` : ''}`
}
