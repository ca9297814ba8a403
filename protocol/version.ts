/**
 * Version of the conversation between controller and generator. Raised with any change that either side could misread.
 */
export const PROTOCOL_VERSION = 10

/** Path of the controller's socket for generators. */
export const LINK_PATH = '/link'

/** Largest message either side accepts, bytes: a frame of thousands of series with wide histograms stays well below. */
export const MAX_MESSAGE_BYTES = 4 * 1024 * 1024

/** Release of the programs: told at the roll call, so that one started from another release shows. */
export const RELEASE = '0.6.0'
