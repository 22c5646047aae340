export {
  type Cut,
  cutFor,
  cutParts,
  DENOISED,
  fileParts,
  layersIn,
  type OpenedFilm,
  type OpenedMade,
  readNamed,
} from './cut';
