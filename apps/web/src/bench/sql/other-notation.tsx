import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react';
import type { ConvertedText } from '@cendra/core';
import { Button } from '../../ui/button';

/** A text in another notation: what would become of it, and one click that does it. */
export function OtherNotation({ converted, onConvert }: { readonly converted: ConvertedText; readonly onConvert: () => void }) {
  const { changes, parameters } = converted;
  const places = [...new Set(changes.flatMap(({ was, now }) => (now === '' ? [] : [was])))];
  const declared = changes.some((each) => each.now === '');
  return (
    <Disclosure as="div" className="border-b bg-panel px-3 py-1.5">
      <div className="flex flex-wrap items-center gap-2">
        <p>
          {places.length > 0 && (
            <>
              Written otherwise than <code className="font-mono">:name</code>:{' '}
              <code className="font-mono">{places.slice(0, 6).join(', ')}</code>
              {places.length > 6 && ` and ${places.length - 6} more`}
              {declared ? ', with ' : '. '}
            </>
          )}
          {declared && (places.length > 0 ? 'declarations at the head. ' : 'Declarations at the head. ')}
        </p>
        <DisclosureButton className="text-ink-soft underline underline-offset-2">What becomes of it</DisclosureButton>
        <span className="ml-auto">
          <Button small kind="primary" onClick={onConvert}>
            Convert
          </Button>
        </span>
      </div>
      <DisclosurePanel className="mt-1 max-h-40 overflow-auto">
        <ul aria-label="Parameters it becomes" className="text-ink-soft">
          {parameters.map(({ name, type, startsAs }) => (
            <li key={name}>
              <span className="font-mono text-ink">:{name}</span> {type ?? 'of the type it meets'}
              {startsAs !== undefined && startsAs !== '' && `, starts as ${startsAs}`}
            </li>
          ))}
        </ul>
        <pre className="mt-1 font-mono text-meta whitespace-pre-wrap">{converted.text}</pre>
      </DisclosurePanel>
    </Disclosure>
  );
}
