export {
  brightestDirection,
  type EnvironmentPicture,
  environmentDistribution,
  environmentPicture,
  environmentSize,
  madeEnvironment,
} from './environment';
export { skyPicture, sunRadiance } from './sky';
