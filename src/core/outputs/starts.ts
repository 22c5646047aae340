import { FIRST_OUTPUTS, type Output } from './schema';

/** What an output can begin as, beside what a comp asks for first: layers, and a picture of its own. */
export interface Start {
  words: string;
  /** What it is for, and what is to be chosen next. */
  tip: string;
  /** Whether the scene must have fog for it. */
  needsFog: boolean;
  outputs: readonly Pick<Output, 'name' | 'layers' | 'variant'>[];
  /** What is to be chosen first. */
  choose: 'receivers' | null;
}

const PARTS = FIRST_OUTPUTS.list[0].layers;
/** Samples that openness and the shadow of a few lights are smooth with. */
const FEW = { 'sampling.cameraMin': 8, 'sampling.cameraMax': 16 };

export const STARTS: readonly Start[] = [
  {
    words: 'Fog alone, surfaces alone',
    tip: 'Two pictures that add up to the whole: light that fog scatters before surfaces black to the camera, and surfaces as they are seen through it.',
    needsFog: true,
    outputs: [
      { name: 'fog', layers: ['beauty', 'alpha', 'group.*'], variant: { 'film.only': 'fog' } },
      { name: 'surfaces', layers: PARTS, variant: { 'film.only': 'surfaces' } },
    ],
    choose: null,
  },
  {
    words: 'Things with their shadow on the ground',
    tip: 'Chosen things without their surroundings, and the shadow that they throw on others as a layer of its own. Choose the things first, then what catches the shadow.',
    needsFog: false,
    outputs: [
      {
        name: 'things',
        layers: ['beauty', 'group.*', 'alpha', 'shadow', 'depth'],
        variant: { 'scope.receivers': [], 'scope.catchers': [], 'scope.sky': false },
      },
    ],
    choose: 'receivers',
  },
  {
    words: 'Openness of these under those',
    tip: 'How open chosen things are when chosen others alone stand about them. Few samples and no bounces: it is cheap. Choose the things first, then the others.',
    needsFog: false,
    outputs: [
      {
        name: 'openness',
        layers: ['occlusion', 'alpha'],
        variant: { 'scope.receivers': [], 'scope.casters': [], 'scope.sky': false, 'rayDepth.all': 0, ...FEW },
      },
    ],
    choose: 'receivers',
  },
  {
    words: 'Direct light without shadow, and the shadow',
    tip: 'What lights shine straight on surfaces with nothing in their way, and the share of it that is in shadow: together they are the direct light, so that shadows can be weakened or coloured. Switch off the lights that it is not about. Few samples and no bounces: it is cheap.',
    needsFog: false,
    outputs: [
      {
        name: 'shade',
        layers: ['unshadowed', 'shadowing', 'alpha'],
        variant: { 'rayDepth.all': 0, ...FEW },
      },
    ],
    choose: null,
  },
  {
    words: 'Things with holes where others stand',
    tip: 'Chosen things without their surroundings, with holes where others stand before them: it is laid into the picture without a mask.',
    needsFog: false,
    outputs: [
      {
        name: 'cut',
        layers: ['beauty', 'group.*', 'alpha', 'depth'],
        variant: { 'scope.receivers': [], 'scope.others': 'holdout', 'scope.sky': false },
      },
    ],
    choose: 'receivers',
  },
  {
    words: 'Clay',
    tip: 'The picture with its surfaces in grey clay: light and shape alone.',
    needsFog: false,
    outputs: [{ name: 'clay', layers: ['beauty', 'group.*', 'alpha'], variant: { 'clay.on': true } }],
    choose: null,
  },
];
