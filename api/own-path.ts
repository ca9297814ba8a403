/** Only a path of this application: a link to it leads nobody elsewhere. @returns the board for anything else */
export const ownPath = (to: unknown): string => (typeof to === 'string' && /^\/(?![/\\])/.test(to) ? to : '/')
