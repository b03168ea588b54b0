import type { Bench } from '../bench/use-bench';
import { LongText } from '../ui/long-text';
import { Tags } from '../ui/tags';

/** What the dataset is, in a few sentences and tags; both are found by on the list of datasets. */
export function AboutLine({ bench }: { readonly bench: Bench }) {
  const { description, tags } = bench.bench.definition;
  const { edit, withoutValues: locked } = bench;
  return (
    <section aria-label="About the dataset" className="space-y-1 border-b px-4 py-3">
      <LongText
        label="Description of the dataset"
        value={description}
        placeholder="What this dataset is, for those who find it"
        rows={2}
        most={5_000}
        disabled={locked}
        onKeep={(to) => edit({ kind: 'set dataset', property: 'description', from: description, to })}
      />
      <Tags tags={tags} locked={locked} onTag={(to) => edit({ kind: 'set dataset', property: 'tags', from: tags, to })} />
    </section>
  );
}
