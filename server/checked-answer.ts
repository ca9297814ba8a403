/**
 * Holds answers and problems against what the API says of them. Tests run with it (`VORNAK_CHECK_ANSWERS`); in use it
 * would cost time and help nobody.
 */
import Ajv, { type ValidateFunction } from 'ajv'
import type { OperationId } from '../api/addresses'
import answerSchemas from '../api/answers.json'
import type { ErrorCode } from '../api/errors'
import { errorsOf } from '../api/operations'

const isChecked = process.env.VORNAK_CHECK_ANSWERS === '1'
const ajv = new Ajv({ strict: false, allErrors: true })
const compiled = new Map<OperationId, ValidateFunction | undefined>()

/** @throws Error when the answer is not what the API says it is */
export function checkAnswer(id: OperationId, answer: unknown): void {
  if (!isChecked) return
  const validate = validatorOf(id)
  // As it is sent: what is undefined is not there.
  if (!validate || validate(JSON.parse(JSON.stringify(answer)))) return
  throw new Error(`the answer of ${id} is not as the API says: ${ajv.errorsText(validate.errors).slice(0, 1000)}`)
}

/** @throws Error when the operation does not name this code */
export function checkProblem(id: OperationId, code: ErrorCode): void {
  if (isChecked && !errorsOf(id).includes(code))
    throw new Error(`${id} answered with “${code}”, which the API does not name for it`)
}

function validatorOf(id: OperationId): ValidateFunction | undefined {
  if (!compiled.has(id)) {
    const { definitions } = answerSchemas
    // Without the root's own `$ref`: with it, the first answer asked for would compile those of all operations.
    if (compiled.size === 0) ajv.addSchema({ definitions }, 'answers')
    const { properties } = definitions.Answers
    compiled.set(id, id in properties ? ajv.getSchema(`answers#/definitions/Answers/properties/${id}`) : undefined)
  }
  return compiled.get(id)
}
