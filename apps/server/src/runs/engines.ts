import type { Provider } from '@nestjs/common';
import { Engine, ResultStore } from '../engine';
import type { Settings } from '../settings';
import { SETTINGS } from '../settings';

/** Two engine processes, so that a heavy run does not keep pages waiting and its death does not take them along. */
export const RUNS_ENGINE = Symbol('runs engine');
export const PAGES_ENGINE = Symbol('pages engine');

const engine = (provide: symbol): Provider => ({
  provide,
  inject: [ResultStore],
  useFactory: (store: ResultStore) => new Engine(store.resultsFolder),
});

export const engineProviders: Provider[] = [
  { provide: ResultStore, inject: [SETTINGS], useFactory: (settings: Settings) => new ResultStore(settings.dataFolder) },
  engine(RUNS_ENGINE),
  engine(PAGES_ENGINE),
];
