<script lang="ts">
  import { yaml } from '@codemirror/lang-yaml'
  import { setDiagnostics, lintGutter, type Diagnostic } from '@codemirror/lint'
  import { HighlightStyle, syntaxHighlighting } from '@codemirror/language'
  import { EditorState } from '@codemirror/state'
  import { EditorView } from '@codemirror/view'
  import { basicSetup } from 'codemirror'
  import { tags } from '@lezer/highlight'
  import { onMount } from 'svelte'

  interface Problem {
    line: number | null
    message: string
  }
  interface Props {
    text: string
    /** What is wrong, by line; shown in the gutter and under the line. */
    problems: readonly Problem[]
    changed: (text: string) => void
  }
  let { text, problems, changed }: Props = $props()
  let place: HTMLDivElement
  let view = $state.raw<EditorView>()

  const look = EditorView.theme({
    '&': { height: '100%', fontSize: '13px', backgroundColor: 'transparent', color: 'var(--ink)' },
    '.cm-content': { fontFamily: 'var(--mono)', caretColor: 'var(--ink)' },
    '.cm-gutters': { backgroundColor: 'var(--band)', color: 'var(--soft)', border: 'none' },
    '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'var(--band)' },
    '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': {
      backgroundColor: 'color-mix(in srgb, var(--performer) 25%, transparent)',
    },
    '.cm-cursor': { borderLeftColor: 'var(--ink)' },
    '.cm-tooltip': { backgroundColor: 'var(--page)', color: 'var(--ink)', border: '1px solid var(--soft)' },
    '.cm-panels': { backgroundColor: 'var(--band)', color: 'var(--ink)' },
  })

  const colours = HighlightStyle.define([
    { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: 'var(--performer)' },
    { tag: [tags.string, tags.content], color: 'var(--ink)' },
    { tag: [tags.number, tags.bool, tags.null], color: 'var(--partner)' },
    { tag: tags.comment, color: 'var(--soft)', fontStyle: 'italic' },
    { tag: [tags.separator, tags.punctuation, tags.squareBracket, tags.brace], color: 'var(--soft)' },
  ])

  onMount(() => {
    view = new EditorView({
      parent: place,
      state: EditorState.create({
        doc: text,
        extensions: [
          basicSetup,
          yaml(),
          lintGutter(),
          look,
          syntaxHighlighting(colours),
          EditorView.contentAttributes.of({ 'aria-label': 'Technique file', spellcheck: 'false', tabindex: '0' }),
          EditorView.updateListener.of((update) => update.docChanged && changed(update.state.doc.toString())),
        ],
      }),
    })
    return () => view?.destroy()
  })
  // Another text from outside, such as an import, takes the place of what is there.
  $effect(() => {
    if (view && text !== view.state.doc.toString())
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } })
  })
  $effect(() => {
    if (!view) return
    const { doc } = view.state
    const found = problems.map((problem): Diagnostic => {
      const line = doc.line(Math.min(Math.max(problem.line ?? 1, 1), doc.lines))
      return { from: line.from, to: line.to, severity: 'error', message: problem.message }
    })
    view.dispatch(setDiagnostics(view.state, found))
  })

  /** Go to a line and select it. */
  export function goTo(number: number): void {
    if (!view) return
    const line = view.state.doc.line(Math.min(number, view.state.doc.lines))
    view.dispatch({
      selection: { anchor: line.from, head: line.to },
      effects: EditorView.scrollIntoView(line.from, { y: 'center' }),
    })
    view.focus()
  }
</script>

<div class="h-full min-h-0" bind:this={place} data-testid="editor"></div>
