export * from './kept-texts.service';
