import { buildAll } from './setup/build';
import { main } from './setup/say';

main(async () => buildAll());
