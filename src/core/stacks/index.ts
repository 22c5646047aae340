export { type Over, type OverFilm, type StackedOn, stackOver } from './stack-over';
export { outputAt, pictureNeeds, variantsIn, withRenamed } from './variants';
