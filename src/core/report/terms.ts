/** What the figures of a report are: each is told under the report that uses it. */
export const TERMS = {
  noise:
    'RMS of what is random in the displayed luminance of a pixel, in percent of display white. Told by the two halves of its samples.',
  p95: '95th percentile of the noise of cells of 16×16 pixels: one cell in twenty is noisier.',
  worst: 'Noise of the noisiest cell of 16×16 pixels.',
  residual: 'Noise that denoising left, told by the two halves, each denoised by itself.',
  clock: 'Seconds of tracing by the clock of the machine that rendered it.',
  calibrated:
    'Seconds that tracing would have taken at speed 1: a machine that traces ten million rays a second of a fixed ball, measured every two seconds meanwhile. It compares over machines and their load.',
  efficiency:
    '1/(noise² · time at speed 1), as a multiple of the other’s. Twice the efficiency is the same noise in half the time.',
  samples: 'Camera samples of all pixels together; in brackets the least and the most of a pixel.',
  rays: 'Rays that were traced, of all kinds.',
  share: 'Share of the noise, as variance, that comes from there: shares sum to one.',
  time: 'Share of the tracing time by kind of ray, by the cost that each kind is found to have among the cells.',
  predicted: 'What was told before it was rendered, with the interval that holds the true value 95 times of 100.',
  tally:
    'Largest difference of any pixel between the sum of the parts and the beauty, relative to the beauty (at least a hundredth of its mean).',
  rmse: 'Root mean square of the linear differences over all channels.',
  psnr: 'Peak signal to noise of the displayed pictures, in decibels.',
  ssim: 'Structural similarity of displayed luminance (Wang et al. 2004); 1 is the same picture.',
  flip: 'Mean FLIP (Andersson et al. 2020): difference as an eye sees it when the two take turns; 0 is the same picture.',
  difference: 'Absolute difference of the displayed pictures, eight times as bright.',
  step: 'How far a frame stands out from what those before and after it lead to expect: RMS over 24×14 cells of displayed luma, in percent of display white. Even motion gives little; a flash or another recipe much.',
  beside: 'Seconds of a frame by the clock: loading what moved, tracing, measuring and packing its files.',
} as const;
export type Term = keyof typeof TERMS;
/** What each figure is called. */
export const TERM_WORDS: Record<Term, string> = {
  noise: 'noise',
  p95: 'noise, 95th percentile',
  worst: 'noise, worst cell',
  residual: 'noise left by denoising',
  clock: 'time by the clock',
  calibrated: 'time at speed 1',
  efficiency: 'efficiency',
  samples: 'samples',
  rays: 'rays',
  share: 'share of the noise',
  time: 'share of the time',
  predicted: 'predicted',
  tally: 'tally',
  rmse: 'RMSE',
  psnr: 'PSNR',
  ssim: 'SSIM',
  flip: 'FLIP',
  difference: 'difference',
  step: 'step',
  beside: 'time of a frame',
};
