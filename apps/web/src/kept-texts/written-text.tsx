import SqlField from '../bench/sql/sql-field';
import { useKnown } from '../bench/sql/use-known';

interface WrittenTextProps {
  readonly source: string;
  readonly text: string;
  onType(text: string): void;
}

/** Where a kept text is written, with its source's tables at hand. What is wrong with it is told on the bench, where it runs. */
export default function WrittenText({ source, text, onType }: WrittenTextProps) {
  const known = useKnown(NOTHING, source, text);
  return (
    <SqlField
      label="Words of the text"
      text={text}
      known={known}
      problems={NOTHING}
      describedBy=""
      readOnly={false}
      onType={onType}
      onSelect={ignore}
      onPart={ignore}
      onReady={ignore}
    />
  );
}

const NOTHING = [] as const;
const ignore = () => undefined;
