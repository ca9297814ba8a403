/** Parts that JSON Schemas (2020-12) are made of. */

/** An object of these properties and no others. */
export const object = (required: Record<string, unknown>, optional: Record<string, unknown> = {}) => ({
  type: 'object',
  additionalProperties: false,
  required: Object.keys(required),
  properties: { ...required, ...optional },
})

/** One of several forms, told apart by `kind`: errors are then about the form that was meant. */
export const kinds = (
  forms: Record<string, { required: Record<string, unknown>, optional?: Record<string, unknown> }>,
  also: Record<string, unknown> = {},
) => ({
  type: 'object',
  required: ['kind'],
  properties: { kind: { enum: Object.keys(forms) } },
  allOf: Object.entries(forms).map(([kind, { required, optional }]) => ({
    if: { properties: { kind: { const: kind } } },
    then: object({ kind: { const: kind }, ...required }, { ...optional, ...also }),
  })),
})
