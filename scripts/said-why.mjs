/**
 * An ESLint rule: one who knows better than the compiler says why. A value that is said to be there (`!`), or to be of
 * another type (`as`), has the reason in a comment on its line, above it, or above its statement. Without one may be
 * said what explains itself: an element at an index (`list[i]!`, where the loop or the length says that it is there),
 * `as const`, `as unknown`, and the type of an empty list.
 */
const STATEMENT = /(Statement|Declaration|Definition|ExportNamedDeclaration)$/

/** @type {import('eslint').Rule.RuleModule} */
export const saidWhy = {
  meta: {
    type: 'suggestion',
    docs: { description: 'a reason stands beside what is said against the compiler' },
    schema: [],
    messages: {
      there: 'Say in a comment why it is there, or use present(value, why).',
      type: 'Say in a comment why it is of that type.',
    },
  },
  create(context) {
    const { sourceCode } = context
    const commented = new Set()
    for (const comment of sourceCode.getAllComments())
      for (let line = comment.loc.start.line; line <= comment.loc.end.line; line++) commented.add(line)
    const isSaid = line => commented.has(line) || commented.has(line - 1)

    function hasReason(node) {
      if (isSaid(node.loc.start.line) || isSaid(node.loc.end.line)) return true
      let of = node
      while (of.parent && !STATEMENT.test(of.type)) of = of.parent
      return isSaid(of.loc.start.line)
    }
    return {
      TSNonNullExpression(node) {
        const { expression } = node
        if (expression.type === 'MemberExpression' && expression.computed) return
        if (!hasReason(node)) context.report({ node, messageId: 'there' })
      },
      TSAsExpression(node) {
        const { expression, typeAnnotation: type, parent } = node
        const isConst = type.type === 'TSTypeReference' && type.typeName.name === 'const'
        const isEmptyList = expression.type === 'ArrayExpression' && expression.elements.length === 0
        // Of two in a row, the outer is asked.
        const isInner = parent.type === 'TSAsExpression'
        if (isConst || isEmptyList || isInner || type.type === 'TSUnknownKeyword') return
        if (!hasReason(node)) context.report({ node, messageId: 'type' })
      },
    }
  },
}
