import type { Provider } from '@nestjs/common';
import { Engine, ResultStore } from '../engine';
import type { Settings } from '../settings';
import { SETTINGS } from '../settings';

/** Engine processes of their own, so that a heavy run or a large file does not keep pages waiting and its death does not take them along. */
export const RUNS_ENGINE = Symbol('runs engine');
export const PAGES_ENGINE = Symbol('pages engine');
export const EXPORTS_ENGINE = Symbol('exports engine');

const engine = (provide: symbol): Provider => ({
  provide,
  inject: [ResultStore],
  useFactory: (store: ResultStore) => new Engine(store.resultsFolder),
});

export const engineProviders: Provider[] = [
  { provide: ResultStore, inject: [SETTINGS], useFactory: (settings: Settings) => new ResultStore(settings.dataFolder) },
  engine(RUNS_ENGINE),
  engine(PAGES_ENGINE),
  engine(EXPORTS_ENGINE),
];
