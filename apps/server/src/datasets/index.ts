export * from './dataset.entity';
export * from './dataset-life.service';
export * from './dataset-list.service';
export * from './held-dataset';
export * from './known-tables.service';
export * from './revisions.service';
export * from './mint-id';
