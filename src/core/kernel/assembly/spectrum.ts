// A path that glass has spread keeps one wavelength; its colour in Rec.709 is scaled so that all wavelengths
// together are white.

const FROM: f32 = 400;
const TO: f32 = 680;

/** A lobe of the colour matching functions [Wyman, Sloan & Shirley 2013, eq. 4]. */
// @ts-ignore: decorator
@inline
function lobe(x: f32, mean: f32, below: f32, above: f32): f32 {
  const t = (x - mean) * (x < mean ? below : above);
  return NativeMathf.exp(f32(-0.5) * t * t);
}

/** Wavelength last drawn in nm, and its colour. */
export let nanometres: f32 = 0;
export let hueR: f32 = 1;
export let hueG: f32 = 1;
export let hueB: f32 = 1;

/** Rec.709 of a wavelength, cut at 0, not yet scaled. */
function colorOf(l: f32): void {
  const x = f32(1.056) * lobe(l, 599.8, 0.0264, 0.0323) + f32(0.362) * lobe(l, 442, 0.0624, 0.0374) - f32(0.065) * lobe(l, 501.1, 0.049, 0.0382);
  const y = f32(0.821) * lobe(l, 568.8, 0.0213, 0.0247) + f32(0.286) * lobe(l, 530.9, 0.0613, 0.0322);
  const z = f32(1.217) * lobe(l, 437, 0.0845, 0.0278) + f32(0.681) * lobe(l, 459, 0.0385, 0.0725);
  hueR = max<f32>(f32(3.2404542) * x - f32(1.5371385) * y - f32(0.4985314) * z, 0);
  hueG = max<f32>(f32(-0.969266) * x + f32(1.8760108) * y + f32(0.041556) * z, 0);
  hueB = max<f32>(f32(0.0556434) * x - f32(0.2040259) * y + f32(1.0572252) * z, 0);
}

let meanR: f32 = 0, meanG: f32 = 0, meanB: f32 = 0;

/** Draws a wavelength with u in [0, 1). */
export function drawWavelength(u: f32): void {
  if (meanR == 0) {
    const steps = 560;
    let r: f32 = 0, g: f32 = 0, b: f32 = 0;
    for (let i = 0; i < steps; i++) {
      colorOf(FROM + (TO - FROM) * (f32(i) + f32(0.5)) / f32(steps));
      r += hueR; g += hueG; b += hueB;
    }
    meanR = r / f32(steps); meanG = g / f32(steps); meanB = b / f32(steps);
  }
  nanometres = FROM + (TO - FROM) * u;
  colorOf(nanometres);
  hueR /= meanR; hueG /= meanG; hueB /= meanB;
}
