import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { json } from '@codemirror/lang-json';
import { bracketMatching, ensureSyntaxTree, foldGutter, foldKeymap, HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { type Diagnostic, setDiagnostics } from '@codemirror/lint';
import { searchKeymap } from '@codemirror/search';
import { Compartment, EditorState } from '@codemirror/state';
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { useEffect, useRef } from 'react';
import { segmentsOf } from './pointers.ts';

/** Something to say about a place of the text. */
export interface Mark {
  readonly pointer: string;
  readonly text: string;
  readonly severity: 'error' | 'warning' | 'info';
}

interface EditorProps {
  readonly label: string;
  readonly text: string;
  readonly marks: readonly Mark[];
  /** A mistake in the JSON itself, as the server tells it: `line 3, column 7: …`. */
  readonly mistake: string | undefined;
  /** A place to go to; another number for each time. */
  readonly goTo: { readonly pointer: string; readonly count: number } | undefined;
  onChange(text: string): void;
  onPointer?(pointer: string): void;
}

const nonce = () => document.querySelector<HTMLMetaElement>('meta[name="style-nonce"]')?.content ?? '';

const colours = HighlightStyle.define([
  { tag: tags.propertyName, color: 'var(--key)' },
  { tag: tags.string, color: 'var(--text-value)' },
  { tag: [tags.number, tags.bool, tags.null], color: 'var(--number-value)' },
]);

/** A JSON text, with marks at the places that something was found at. */
export function Editor({ label, text, marks, mistake, goTo, onChange, onPointer }: EditorProps) {
  const home = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const tell = useRef({ onChange, onPointer });
  tell.current = { onChange, onPointer };

  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once, and told of what changes below
  useEffect(() => {
    const attributes = new Compartment();
    const made = new EditorView({
      parent: home.current as HTMLDivElement,
      state: EditorState.create({
        doc: text,
        extensions: [
          EditorView.cspNonce.of(nonce()),
          lineNumbers(),
          foldGutter(),
          history(),
          drawSelection(),
          bracketMatching(),
          highlightActiveLine(),
          json(),
          syntaxHighlighting(colours),
          EditorView.lineWrapping,
          attributes.of(EditorView.contentAttributes.of({ 'aria-label': label })),
          keymap.of([...defaultKeymap, ...historyKeymap, ...searchKeymap, ...foldKeymap]),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) tell.current.onChange(update.state.doc.toString());
            if (update.selectionSet) tell.current.onPointer?.(pointerAt(update.state, update.state.selection.main.head));
          }),
        ],
      }),
    });
    view.current = made;
    return () => made.destroy();
  }, []);

  useEffect(() => {
    const made = view.current;
    if (!made || made.state.doc.toString() === text) return;
    made.dispatch({ changes: { from: 0, to: made.state.doc.length, insert: text } });
  }, [text]);

  useEffect(() => {
    const made = view.current;
    if (made) made.dispatch(setDiagnostics(made.state, diagnosticsOf(made.state, marks, mistake)));
  }, [marks, mistake]);

  useEffect(() => {
    const made = view.current;
    if (!made || !goTo) return;
    const range = rangeOf(made.state, segmentsOf(goTo.pointer));
    made.dispatch({ selection: { anchor: range.from, head: range.to }, effects: EditorView.scrollIntoView(range.from, { y: 'center' }) });
    made.focus();
  }, [goTo]);

  return <div className="editor" ref={home} />;
}

function diagnosticsOf(state: EditorState, marks: readonly Mark[], mistake: string | undefined): Diagnostic[] {
  if (mistake !== undefined) {
    const [, line = '1', column = '1'] = /(?:line (\d+), )?column (\d+)/.exec(mistake) ?? [];
    const at = state.doc.line(Math.min(Number(line), state.doc.lines));
    const from = Math.min(at.from + Number(column) - 1, at.to);
    return [{ from: Math.max(at.from, Math.min(from, at.to - 1)), to: Math.min(from + 1, at.to), severity: 'error', message: mistake }];
  }
  return marks.slice(0, 200).map(({ pointer, text, severity }) => ({ ...rangeOf(state, segmentsOf(pointer)), severity, message: text }));
}

/** Milliseconds that looking for a place may take. */
const PATIENCE = 200;

/** Where a place stands in the text; of one that is not there, what it would stand in. */
function rangeOf(state: EditorState, segments: readonly string[]): { readonly from: number; readonly to: number } {
  let node = ensureSyntaxTree(state, state.doc.length, PATIENCE)?.topNode.firstChild ?? null;
  let member = node;
  for (const segment of segments) {
    const next =
      node && (node.name === 'Object' ? memberOf(state, node, segment) : node.name === 'Array' ? entryOf(node, Number(segment)) : null);
    if (!next) break;
    member = next.member;
    node = next.value;
  }
  if (!member || member.name === 'Object' || member.name === 'Array') {
    const from = member?.from ?? 0;
    return { from, to: Math.min(from + 1, state.doc.length) };
  }
  return { from: member.from, to: Math.min(member.to, state.doc.lineAt(member.from).to) };
}

type Node = NonNullable<ReturnType<typeof ensureSyntaxTree>>['topNode'];
interface Found {
  readonly member: Node;
  readonly value: Node | null;
}

function memberOf(state: EditorState, object: Node, name: string): Found | null {
  for (let member = object.firstChild; member; member = member.nextSibling) {
    const key = member.name === 'Property' ? member.firstChild : null;
    if (!key) continue;
    try {
      if (JSON.parse(state.doc.sliceString(key.from, key.to)) === name) return { member, value: member.lastChild };
    } catch {
      // A key that is being typed.
    }
  }
  return null;
}

function entryOf(list: Node, index: number): Found | null {
  let at = 0;
  for (let entry = list.firstChild; entry; entry = entry.nextSibling) {
    if (['[', ']', ',', '⚠'].includes(entry.name)) continue;
    if (at++ === index) return { member: entry, value: entry };
  }
  return null;
}

/** The pointer of the value that the cursor stands in. */
function pointerAt(state: EditorState, position: number): string {
  const tree = ensureSyntaxTree(state, position, PATIENCE);
  const segments: string[] = [];
  for (let node = tree?.resolveInner(position, -1) ?? null; node; node = node.parent) {
    const { parent } = node;
    if (node.name === 'Property' && node.firstChild) {
      try {
        segments.unshift(JSON.parse(state.doc.sliceString(node.firstChild.from, node.firstChild.to)));
      } catch {
        return '';
      }
    } else if (parent?.name === 'Array') {
      let index = 0;
      for (let before = node.prevSibling; before; before = before.prevSibling) if (!['[', ','].includes(before.name)) index++;
      segments.unshift(String(index));
    }
  }
  return segments.map((segment) => `/${segment}`).join('');
}
