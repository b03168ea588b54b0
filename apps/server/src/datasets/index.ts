export * from './dataset.entity';
export * from './datasets.service';
