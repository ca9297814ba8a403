import { PASTED_TEXT, type PastedText } from '../../../api/requests'
import { answersTo } from '../../answer'
import { coordinator } from '../../../control/meeting-place'

export default answersTo<PastedText, unknown>(PASTED_TEXT, ({ text }) => coordinator().imports.hosts(text))
