<script setup lang="ts">
/** A text with its language's colours and, where there are any, faults marked at their lines. */
import { json } from '@codemirror/lang-json'
import { yaml } from '@codemirror/lang-yaml'
import { setDiagnostics } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { basicSetup, EditorView } from 'codemirror'

const {
  value,
  language,
  label,
  faults = [],
  whole = false,
  autofocus = false,
} = defineProps<{
  value: string
  language: 'json' | 'yaml' | 'text'
  label: string
  /** 1 is the first line. */
  faults?: { line: number, sentence: string }[]
  /** Tells every keystroke, not only what is there when one leaves. */
  whole?: boolean
  /** Takes the focus when it comes. */
  autofocus?: boolean
}>()
const emit = defineEmits<{ change: [text: string] }>()
const place = useTemplateRef<HTMLElement>('place')
let view: EditorView | undefined

onMounted(() => {
  view = new EditorView({
    // It is mounted.
    parent: place.value!,
    state: EditorState.create({
      doc: value,
      extensions: [
        basicSetup,
        ...(language === 'json' ? [json()] : language === 'yaml' ? [yaml()] : []),
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ 'aria-label': label }),
        EditorView.updateListener.of((u) => {
          if (whole && u.docChanged) emit('change', u.state.doc.toString())
        }),
        EditorView.domEventHandlers({
          blur: (_, v) => {
            if (v.state.doc.toString() !== value) emit('change', v.state.doc.toString())
          },
        }),
      ],
    }),
  })
  mark()
  if (autofocus) view.focus()
})
onBeforeUnmount(() => {
  // What was typed last is not lost with the screen.
  if (view && view.state.doc.toString() !== value) emit('change', view.state.doc.toString())
  view?.destroy()
})
watch(
  () => value,
  (now) => {
    if (view && !view.hasFocus && view.state.doc.toString() !== now)
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: now } })
  },
)
watch(() => faults, mark)

function mark(): void {
  if (!view) return
  const { doc } = view.state
  view.dispatch(
    setDiagnostics(
      view.state,
      faults.map((f) => {
        const line = doc.line(Math.min(doc.lines, Math.max(1, f.line)))
        return { from: line.from, to: line.to, severity: 'error', message: f.sentence }
      }),
    ),
  )
}
</script>

<template>
  <div ref="place" class="code-text" />
</template>

<style>
.code-text {
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--panel);
  overflow: auto;
}
.code-text .cm-editor {
  font-size: 12px;
  height: 100%;
}
.code-text .cm-editor.cm-focused {
  outline: 2px solid var(--act);
}
.code-text .cm-scroller {
  font-family: var(--font-mono);
}
.code-text .cm-gutters {
  background: var(--sunk);
  color: var(--quiet);
  border-right: 1px solid var(--hair);
}
.code-text .cm-activeLine,
.code-text .cm-activeLineGutter {
  background: var(--shade);
}
.code-text .cm-content {
  caret-color: var(--ink);
}
.code-text .cm-cursor {
  border-left-color: var(--ink);
}
.code-text .cm-selectionBackground,
.code-text .cm-focused .cm-selectionBackground {
  background: var(--sel) !important;
}
.code-text .ͼb {
  color: var(--plantx);
}
.code-text .ͼe {
  color: var(--moss);
}
.code-text .ͼd {
  color: var(--act);
}
.code-text .ͼl,
.code-text .ͼc {
  color: var(--act);
}
</style>
