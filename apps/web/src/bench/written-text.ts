import { Annotation } from '@codemirror/state';
import type { EditorView, ViewUpdate } from '@codemirror/view';
import type { RefObject } from 'react';
import { useEffect, useMemo, useRef } from 'react';

/** A change that comes from outside and is not typed. */
const given = Annotation.define<boolean>();

/**
 * Keeps an editor's text that of its owner: what is typed goes out, what comes from outside goes in. `typed` is given each
 * update of the editor, and gives the text where somebody typed.
 */
export function useWrittenText(view: RefObject<EditorView | undefined>, text: string): { typed(update: ViewUpdate): string | undefined } {
  const own = useRef(new Set<string>());
  useEffect(() => {
    const editor = view.current;
    const doc = editor?.state.doc.toString();
    // What was typed comes back a moment later, when more may have been typed: it must not be written over that.
    const echo = own.current.has(text);
    if (doc === text) own.current.clear();
    if (!editor || doc === text || echo) return;
    editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: text }, annotations: given.of(true) });
  }, [view, text]);
  return useMemo(
    () => ({
      typed: (update) => {
        if (!update.docChanged || update.transactions.some((each) => each.annotation(given))) return undefined;
        const written = update.state.doc.toString();
        own.current.add(written);
        return written;
      },
    }),
    [],
  );
}
