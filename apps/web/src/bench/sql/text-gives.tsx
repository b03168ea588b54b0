import type { Parameter, TextStep } from '@cendra/core';
import { typeWord } from '@cendra/core';
import { RoleGlyph } from '../../ui/glyphs';
import { Tick } from '../../ui/tick';
import type { Bench } from '../use-bench';

/** What each parameter in the text meets there, and what it was made. */
export function MetParameters({ step, parameters }: { readonly step: TextStep; readonly parameters: readonly Parameter[] }) {
  const own = parameters.filter((each) => step.sql.refs.some((ref) => ref.parameter === each.id));
  if (own.length === 0) return null;
  return (
    <ul aria-label="Parameters in the text" className="mb-2">
      {own.map(({ id, name, type, takes, leftBlank }) => (
        <li key={id} className="flex gap-2">
          <span className="font-mono">:{name}</span>
          <span className="text-ink-soft">
            {type}, {takes === 'range' ? 'a range' : takes}, left blank: {leftBlank}
            {step.met[name]?.[0] !== undefined && `; meets ${step.met[name][0]}`}
          </span>
        </li>
      ))}
    </ul>
  );
}

/** The fields a text gives; those ticked tell its rows apart. */
export function TextFields({ bench, step }: { readonly bench: Bench; readonly step: TextStep }) {
  if (step.fields.length === 0) return null;
  const set = (to: readonly string[]) => bench.edit({ kind: 'set step', step: step.id, property: 'key', from: step.key, to });
  return (
    <table aria-label="Fields of the text" className="w-full border-t">
      <thead className="text-left text-meta text-ink-soft">
        <tr className="border-b">
          <th className="py-0.5 font-normal">field</th>
          <th className="font-normal">type</th>
          <th className="font-normal" title="These fields together tell rows apart">
            key
          </th>
        </tr>
      </thead>
      <tbody>
        {step.fields.map((field) => (
          <tr key={field.id} className="border-b">
            <td className="py-0.5">
              <span className="flex items-center gap-2">
                <RoleGlyph role={field.role} />
                {field.name}
                {field.name !== field.column && <span className="text-meta text-ink-soft">{nameWords(field.column, field.name)}</span>}
              </span>
            </td>
            <td className="text-ink-soft" title={field.sourceType}>
              {typeWord(field.type)}
            </td>
            <td>
              <Tick
                checked={step.key.includes(field.id)}
                label={`${field.name} tells rows apart`}
                disabled={bench.withoutValues}
                onChange={(on) => set(on ? [...step.key, field.id] : step.key.filter((each) => each !== field.id))}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const nameWords = (column: string, name: string) =>
  name.startsWith(column) ? `a second ${column}, named here` : 'has no name in the text, named here by its place';
