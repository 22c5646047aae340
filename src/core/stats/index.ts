export { allocate, type CellNeed } from './allocate';
export { efficiency } from './efficiency';
export { cellNoise, type Noise, noiseFigures, noiseMap, noiseOf, noiseSquares, type Rgb } from './noise';
