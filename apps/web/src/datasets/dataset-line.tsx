import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react';
import { MoreVertical } from 'lucide-react';
import { memo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { DatasetLineDto } from '../api';
import { api } from '../api';
import { failureOf } from '../api/problem';
import { mint } from '../bench/mint';
import { clock } from '../ui/format';
import { FailureNotice } from '../ui/notice';

interface DatasetLineProps {
  readonly dataset: DatasetLineDto;
  readonly onTag: (tag: string) => void;
  readonly onDeleted: (dataset: DatasetLineDto) => void;
}

/** A dataset in the list: what it is, who changed it last, and what can be done with it as a whole. */
export const DatasetLine = memo(function DatasetLine({ dataset, onTag, onDeleted }: DatasetLineProps) {
  const { id, title, revision, changedAt, changedBy, description, tags } = dataset;
  const [renaming, setRenaming] = useState(false);
  const [duplicate, duplicating] = api.useDatasetsDuplicateMutation();
  const [remove, removing] = api.useDatasetsDeleteMutation();
  const [edit, editing] = api.useDatasetsRenameMutation();
  const [ask, asking] = api.useLazyDatasetsOneQuery();
  const navigate = useNavigate();
  const rename = async (to: string) => {
    setRenaming(false);
    if (to.trim() === title) return;
    // What it is called may not be its title: one without a title is called by what it keeps.
    const { data } = await ask({ id });
    if (!data?.definition) return;
    const edits = [{ kind: 'set title', from: data.definition.title, to: to.trim() }];
    await edit({ id, editsDto: { editId: mint(), baseRevision: data.revision, edits } });
  };
  const acts: readonly (readonly [string, () => void])[] = [
    ['Rename', () => setRenaming(true)],
    ['Describe and tag', () => void navigate(`/datasets/${id}/fields`)],
    ['Duplicate', () => void duplicate({ id }).then((answer) => answer.data && navigate(`/datasets/${answer.data.id}/bench`))],
    ['Delete', () => void remove({ id }).then((answer) => !answer.error && onDeleted(dataset))],
  ];
  const failure = failureOf(duplicating.error ?? removing.error ?? asking.error ?? editing.error);
  return (
    <tr className="border-b align-top hover:bg-panel">
      <td className="py-1.5">
        {renaming ? (
          <input
            autoFocus
            aria-label={`New title of ${title}`}
            defaultValue={title}
            maxLength={200}
            onFocus={(event) => event.target.select()}
            onBlur={(event) => void rename(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === 'Enter') void rename(event.currentTarget.value);
              if (event.key === 'Escape') setRenaming(false);
            }}
            className="slot w-96 text-section"
          />
        ) : (
          <Link to={`/datasets/${id}/bench`} className="text-section underline-offset-2 hover:underline">
            {title}
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
        {description !== '' && <p className="max-w-xl truncate text-ink-soft">{description}</p>}
        <FailureNotice failure={failure} />
      </td>
      <td className="py-1.5 text-ink-soft">r{revision}</td>
      <td className="py-1.5 whitespace-nowrap">{clock(changedAt)}</td>
      <td className="py-1.5">{changedBy}</td>
      <td className="py-1">
        <Menu>
          <MenuButton
            aria-label={`What to do with ${title}`}
            className="flex size-6 items-center justify-center text-ink-faint hover:text-ink"
          >
            <MoreVertical size={16} strokeWidth={1.75} aria-hidden />
          </MenuButton>
          <MenuItems anchor="bottom end" className="z-40 min-w-40 rounded border bg-paper py-1 shadow-md">
            {acts.map(([words, act]) => (
              <MenuItem key={words}>
                <button type="button" onClick={act} className="w-full px-3 py-1 text-left data-focus:bg-panel">
                  {words}
                </button>
              </MenuItem>
            ))}
          </MenuItems>
        </Menu>
      </td>
    </tr>
  );
});
