import { Link } from 'react-router';
import type { KeptTextLineDto } from '../api';
import { api } from '../api';
import { Button } from '../ui/button';
import { clock } from '../ui/format';
import { EmptyState, FailureNotice } from '../ui/notice';
import { Waiting } from '../ui/waiting';
import { FileTexts } from './file-texts';
import { SoughtInput, useSoughtTexts } from './sought-texts';

/** The shelf: every SQL text that was kept, found by its words. */
export function KeptTextsPage() {
  const texts = useSoughtTexts();
  const { lines, sought, setSought, failure } = texts;
  return (
    <main className="mx-auto h-full max-w-5xl overflow-auto p-4">
      <div className="flex items-end gap-3">
        <h1 className="mr-auto font-serif text-title">Kept texts</h1>
        <SoughtInput of={texts} />
      </div>
      <FileTexts />
      {!lines ? (
        failure ? (
          <FailureNotice failure={failure} />
        ) : (
          <Waiting what="Reading the shelf" />
        )
      ) : lines.length > 0 ? (
        <Lines lines={lines} onTag={setSought} />
      ) : sought.trim() === '' ? (
        <EmptyState>No text is kept yet. Put one here from its step on the bench, or take .sql files.</EmptyState>
      ) : (
        <EmptyState action={<Button onClick={() => setSought('')}>Show all</Button>}>No text has “{sought}” in its words.</EmptyState>
      )}
    </main>
  );
}

function Lines({ lines, onTag }: { readonly lines: readonly KeptTextLineDto[]; readonly onTag: (tag: string) => void }) {
  const sources = api.useSourcesListQuery().data ?? [];
  return (
    <table className="figures mt-3 w-full border-t">
      <thead>
        <tr className="border-b text-left text-meta text-ink-soft">
          <th scope="col" className="py-1.5 font-normal">
            text
          </th>
          <th scope="col" className="font-normal">
            written for
          </th>
          <th scope="col" className="font-normal">
            version
          </th>
          <th scope="col" className="font-normal">
            last changed
          </th>
          <th scope="col" className="font-normal">
            by
          </th>
        </tr>
      </thead>
      <tbody>
        {lines.map(({ id, name, note, withheld, tags = [], ...each }) => (
          <tr key={id} className="border-b align-top hover:bg-panel">
            <td className="py-1.5">
              {withheld ? (
                <span className="text-section">{name}</span>
              ) : (
                <Link to={`/texts/${id}`} className="text-section underline-offset-2 hover:underline">
                  {name}
                </Link>
              )}
              {tags.map((tag) => (
                <button
                  key={tag}
                  type="button"
                  aria-label={`Show what is tagged ${tag}`}
                  onClick={() => onTag(tag)}
                  className="ml-2 rounded border px-1 text-meta text-ink-soft hover:border-ink-faint"
                >
                  {tag}
                </button>
              ))}
              {note !== '' && <p className="max-w-xl truncate text-ink-soft">{note}</p>}
            </td>
            {withheld ? (
              <td colSpan={4} className="py-1.5 text-ink-soft">
                You lack its source; a steward gives sources.
              </td>
            ) : (
              <>
                <td className="py-1.5">{sources.find((source) => source.id === each.source)?.name ?? 'a source that was removed'}</td>
                <td className="py-1.5 text-ink-soft">{each.version}</td>
                <td className="py-1.5 whitespace-nowrap">{clock(each.changedAt ?? '')}</td>
                <td className="py-1.5">{each.changedBy}</td>
              </>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
