/** SQL files are taken into the bundle as text. */
declare module '*.sql' {
  const text: string
  export default text
}
