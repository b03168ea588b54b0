/** One setting as the steward enters it. */
export interface SettingEntry {
  /** As the setting is named in the kind's settings. */
  readonly name: string;
  readonly label: string;
  /** The values to choose among, with their words; left out where it is typed. */
  readonly options?: readonly (readonly [value: string, words: string])[];
  /** Of the input it is typed into. */
  readonly input?: Readonly<Record<string, unknown>>;
}

/** Settings as they are entered: text by name. */
export type Entered = Readonly<Record<string, string>>;

/** How one kind of source is entered and told in words. The server checks what was entered. */
export interface SourceKind<Settings = unknown> {
  /** As on the wire. */
  readonly kind: string;
  readonly word: string;
  readonly secretWord: string;
  readonly entries: readonly SettingEntry[];
  /** What a new source begins with. */
  readonly begins: Entered;
  entered(settings: Settings): Entered;
  settings(entered: Entered): Settings;
  /** Where it is, in a few words. */
  place(settings: Settings): string;
  /** Where it is, who reads it and how. */
  description(settings: Settings): string;
}
