import { acceptCompletion, autocompletion, completionKeymap, snippet, startCompletion } from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
import { Compartment, EditorState, Prec } from '@codemirror/state';
import { EditorView, keymap, placeholder, tooltips } from '@codemirror/view';
import { useEffect, useRef } from 'react';
import type { Parameter, Problem, Schema, Span } from '@cendra/core';
import { useWrittenText } from '../written-text';
import { completionsOf, skeletonText } from './completion';
import { colouring, marks, setMarks } from './marking';

export interface ExpressionFieldProps {
  readonly label: string;
  readonly text: string;
  readonly schema: Schema;
  readonly parameters: readonly Parameter[];
  /** Ids of the calculated fields among them. */
  readonly calculated: ReadonlySet<string>;
  readonly problems: readonly Problem[];
  readonly describedBy: string;
  readonly readOnly: boolean;
  /** Grows each time the field is to take the focus. */
  readonly focus: number;
  onType(text: string): void;
  /** The text is left, or kept on purpose. */
  onKeep(): void;
  /** A part is pointed at: by the caret, or by the mouse. */
  onPoint(at: Span | undefined): void;
  /** The fix of the problem at the caret, or of the first one. */
  onFix(at: number): void;
  /** Gives a way to write at the caret; `…` stands where something is to be filled in, which Tab goes through. */
  onReady(write: (text: string) => void): void;
}

/** Milliseconds of rest after which what is wrong is marked. */
const MARK_AFTER = 200;

/** Where an expression is written: completion, colours, and marks under what is wrong. Tab leaves it. */
export default function ExpressionField(props: ExpressionFieldProps) {
  const { label, text, schema, parameters, calculated, problems, describedBy, readOnly, focus } = props;
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(undefined);
  const latest = useRef(props);
  useEffect(() => {
    latest.current = props;
  });
  const attributes = useRef(new Compartment());
  const colours = useRef(new Compartment());
  const written = useWrittenText(view, text);

  useEffect(() => {
    if (!host.current) return undefined;
    const keys = [
      { key: 'Alt-Enter', run: (editor: EditorView) => (latest.current.onFix(editor.state.selection.main.head), true) },
      { key: 'Mod-Enter', run: () => (latest.current.onKeep(), true) },
      { key: 'Tab', run: acceptCompletion },
      { key: 'Alt-/', run: startCompletion },
    ];
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: latest.current.text,
        extensions: [
          history(),
          Prec.high(keymap.of(keys)),
          keymap.of([...completionKeymap, ...defaultKeymap, ...historyKeymap]),
          EditorView.lineWrapping,
          placeholder('an expression, such as price * kilos'),
          tooltips({ position: 'fixed', parent: document.body }),
          autocompletion({ interactionDelay: 0, override: [(context) => completionsOf(context, latest.current)], icons: false }),
          attributes.current.of([]),
          colours.current.of([]),
          marks,
          EditorView.updateListener.of((update) => {
            const typed = written.typed(update);
            if (typed !== undefined) latest.current.onType(typed);
            if (update.selectionSet || update.docChanged) latest.current.onPoint(pointed(update.state));
          }),
          EditorView.domEventHandlers({
            blur: () => latest.current.onKeep(),
            mousemove: (event, editor) => {
              const at = editor.posAtCoords({ x: event.clientX, y: event.clientY });
              if (at !== null) latest.current.onPoint({ from: at, to: at });
            },
            mouseleave: (_event, editor) => latest.current.onPoint(pointed(editor.state)),
          }),
        ],
      }),
    });
    view.current = editor;
    latest.current.onReady((written) => {
      const { from, to } = placeOf(editor.state);
      snippet(skeletonText(written))(editor, null, from, to);
      editor.focus();
    });
    if (latest.current.focus > 0) editor.focus();
    return () => editor.destroy();
  }, [written]);

  const invalid = problems.some((each) => each.severity === 'error');
  useEffect(() => {
    const named = {
      'aria-label': label,
      'aria-describedby': describedBy,
      'aria-invalid': String(invalid),
      'aria-multiline': 'true',
    };
    view.current?.dispatch({
      effects: attributes.current.reconfigure([
        EditorView.contentAttributes.of(named),
        EditorState.readOnly.of(readOnly),
        EditorView.editable.of(!readOnly),
      ]),
    });
  }, [label, describedBy, invalid, readOnly]);

  useEffect(() => {
    view.current?.dispatch({ effects: colours.current.reconfigure(colouring({ schema, parameters, calculated })) });
  }, [schema, parameters, calculated]);

  useEffect(() => {
    // Marking while keys arrive would rebuild the line under the caret between two of them.
    const rest = setTimeout(() => view.current?.dispatch({ effects: setMarks.of(problems) }), MARK_AFTER);
    return () => clearTimeout(rest);
  }, [problems, text]);

  useEffect(() => {
    if (focus > 0) view.current?.focus();
  }, [focus]);

  return <div ref={host} className="expression-field" />;
}

const pointed = (state: EditorState): Span => ({ from: state.selection.main.from, to: state.selection.main.to });

/** Over what is chosen, or at the cursor within the text; a text with the cursor at its edge is finished, and is replaced. */
function placeOf({ selection: { main }, doc }: EditorState): Span {
  const within = !main.empty || (main.head > 0 && main.head < doc.length);
  return within ? { from: main.from, to: main.to } : { from: 0, to: doc.length };
}
