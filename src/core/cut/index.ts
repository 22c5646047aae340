export {
  type Cut,
  cutFor,
  cutParts,
  DENOISED,
  fileParts,
  layersIn,
  layersNamed,
  type OpenedFilm,
  type OpenedMade,
  readNamed,
} from './cut';
