/** Lets Jest import .sql files as the bundler does: as text. */
module.exports = {
  process: text => ({ code: `module.exports = { __esModule: true, default: ${JSON.stringify(text)} }` }),
}
