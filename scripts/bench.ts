import { bench } from '../benchmarks/bench';
import { main } from './setup/say';

main(bench);
