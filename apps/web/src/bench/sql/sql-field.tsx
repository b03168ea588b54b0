import { acceptCompletion, autocompletion, completionKeymap, completionStatus, startCompletion } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands';
import { PostgreSQL, sql } from '@codemirror/lang-sql';
import { bracketMatching, codeFolding, foldGutter, foldKeymap, HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import type { Diagnostic } from '@codemirror/lint';
import { lintKeymap, setDiagnostics } from '@codemirror/lint';
import { highlightSelectionMatches, search, searchKeymap } from '@codemirror/search';
import { Compartment, EditorState, Prec } from '@codemirror/state';
import { drawSelection, EditorView, keymap, lineNumbers, placeholder, tooltips } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { useEffect, useRef } from 'react';
import type { Problem, Span } from '@cendra/core';
import { useWrittenText } from '../written-text';
import type { Known } from './completion';
import { textCompletions } from './completion';

export interface SqlFieldProps {
  readonly label: string;
  readonly text: string;
  readonly known: Known;
  readonly problems: readonly Problem[];
  readonly describedBy: string;
  readonly readOnly: boolean;
  onType(text: string): void;
  /** What is chosen in the text; empty where the caret only stands somewhere. */
  onSelect(at: Span): void;
  /** What is chosen is to run alone. */
  onPart(): void;
  /** Gives a way to exchange a stretch of the text, as if it were typed, and one to show where a stretch is. */
  onReady(exchange: (change: Span & { readonly instead: string }) => void, show: (at: Span) => void): void;
}

const MARK_AFTER = 150;

const look = syntaxHighlighting(
  HighlightStyle.define([
    { tag: tags.keyword, class: 'sql-word' },
    { tag: [tags.string, tags.special(tags.string)], class: 'sql-text' },
    { tag: tags.comment, class: 'sql-comment' },
    { tag: tags.number, class: 'sql-number' },
  ]),
);

/** Where a text is written: completion, folding, find and replace, and marks under what is wrong. Escape, then Tab leaves it. */
export default function SqlField(props: SqlFieldProps) {
  const { label, text, known, problems, describedBy, readOnly } = props;
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const latest = useRef(props);
  useEffect(() => {
    latest.current = props;
  });
  const attributes = useRef(new Compartment());
  const written = useWrittenText(view, text);

  useEffect(() => {
    if (!host.current) return undefined;
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: latest.current.text,
        extensions: [
          lineNumbers(),
          codeFolding(),
          foldGutter(),
          history(),
          drawSelection(),
          bracketMatching(),
          highlightSelectionMatches(),
          search({ top: true }),
          sql({ dialect: PostgreSQL }),
          look,
          Prec.high(
            keymap.of([
              { key: 'Mod-Shift-Enter', run: () => (latest.current.onPart(), true) },
              { key: 'Tab', run: acceptCompletion },
              { key: 'Alt-/', run: startCompletion },
            ]),
          ),
          keymap.of([
            ...completionKeymap,
            ...searchKeymap,
            ...foldKeymap,
            ...lintKeymap,
            ...defaultKeymap,
            ...historyKeymap,
            indentWithTab,
          ]),
          placeholder('select … from …, with :name where a value is asked for'),
          tooltips({ position: 'fixed', parent: document.body }),
          autocompletion({ interactionDelay: 0, override: [(context) => textCompletions(context, latest.current.known)], icons: false }),
          attributes.current.of([]),
          EditorView.updateListener.of((update) => {
            if (update.selectionSet || update.docChanged) {
              const { from, to } = update.state.selection.main;
              latest.current.onSelect({ from, to });
            }
            const typed = written.typed(update);
            if (typed !== undefined) latest.current.onType(typed);
          }),
        ],
      }),
    });
    view.current = editor;
    latest.current.onReady(
      ({ from, to, instead }) => {
        editor.dispatch({ changes: { from, to, insert: instead }, selection: { anchor: from + instead.length }, scrollIntoView: true });
        editor.focus();
      },
      ({ from, to }) => {
        const { length } = editor.state.doc;
        const selection = { anchor: Math.min(from, length), head: Math.min(to, length) };
        editor.dispatch({ selection, effects: EditorView.scrollIntoView(selection.anchor, { y: 'start', yMargin: 20 }) });
      },
    );
    return () => editor.destroy();
  }, [written]);

  useEffect(() => {
    const named = { 'aria-label': label, 'aria-describedby': describedBy, 'aria-multiline': 'true', tabindex: '0' };
    view.current?.dispatch({
      effects: attributes.current.reconfigure([
        EditorView.contentAttributes.of(named),
        EditorState.readOnly.of(readOnly),
        EditorView.editable.of(!readOnly),
      ]),
    });
  }, [label, describedBy, readOnly]);

  useEffect(() => {
    // What is offered while the source is still being asked is offered anew when it has answered.
    if (view.current && completionStatus(view.current.state) === 'active') startCompletion(view.current);
  }, [known]);

  useEffect(() => {
    // Marking while keys arrive would rebuild the line under the caret between two of them.
    const rest = setTimeout(() => {
      const editor = view.current;
      if (editor) editor.dispatch(setDiagnostics(editor.state, diagnosticsOf(problems, editor.state.doc.length)));
    }, MARK_AFTER);
    return () => clearTimeout(rest);
  }, [problems, text]);

  return <div ref={host} className="sql-field h-full min-h-0" />;
}

function diagnosticsOf(problems: readonly Problem[], length: number): Diagnostic[] {
  return problems.flatMap(({ place: { position }, severity, message }) => {
    if (!position || length === 0) return [];
    const from = Math.min(position.from, length - 1);
    const to = Math.min(Math.max(position.to, from + 1), length);
    return [{ from, to, message, severity: severity === 'hint' ? 'info' : severity }];
  });
}
