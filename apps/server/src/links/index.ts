export { LinksModule } from './links.module';
export { LinksService } from './links.service';
