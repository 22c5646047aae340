export { type Over, type OverFilm, type StackedOn, stackOver } from './stack-over';
