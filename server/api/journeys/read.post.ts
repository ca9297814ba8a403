import { readJourneyText } from '../../../core/formats/journey-text'
import { PASTED_TEXT, type PastedText } from '../../../api/requests'
import { answersTo } from '../../answer'

export default answersTo<PastedText, unknown>(PASTED_TEXT, ({ text }) => readJourneyText(text))
