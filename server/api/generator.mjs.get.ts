import { setResponseHeader } from 'h3'
import { answers } from '../answer'
import { coordinator } from '../../control/meeting-place'

/** The generator program, for machines that enrol by themselves. There is no secret in it. */
export default answers((event) => {
  setResponseHeader(event, 'content-type', 'text/javascript; charset=utf-8')
  return coordinator().generatorProgram()
})
