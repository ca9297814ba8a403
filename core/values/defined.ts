/** What is undefined is left out: a property that may be absent must then not be there at all. */
export const defined = <T extends object>(of: T) =>
  Object.fromEntries(Object.entries(of).filter(([, value]) => value !== undefined)) as {
    [K in keyof T]?: Exclude<T[K], undefined>
  }
