export { KeepingService } from './keeping.service';
