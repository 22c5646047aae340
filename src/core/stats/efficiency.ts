/** 1 / (noise² · seconds): unchanged by merely adding samples. Noise in percent. */
export function efficiency(noisePercent: number, seconds: number): number {
  return noisePercent > 0 && seconds > 0 ? 1 / (noisePercent * noisePercent * seconds) : 0;
}
