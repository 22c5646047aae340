export {
  brightestDirection,
  type EnvironmentPicture,
  environmentDistribution,
  environmentPicture,
  environmentSize,
} from './environment';
export { skyPicture, sunRadiance } from './sky';
