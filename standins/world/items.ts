/** A thing that bee-keepers buy. */
export interface Item {
  slug: string;
  name: string;
  kind: 'Hives' | 'Clothing' | 'Smokers' | 'Extraction' | 'Jars' | 'Wax and feed';
  /** The price around which it moves, in pence. */
  base: number;
  blurb: string;
}

const item = (slug: string, name: string, kind: Item['kind'], base: number, blurb: string): Item => ({
  slug,
  name,
  kind,
  base,
  blurb,
});

/** What Skepwright sells. */
export const ITEMS: readonly Item[] = [
  item(
    'copper-smoker-large',
    'Copper smoker, large',
    'Smokers',
    2400,
    'Spun copper with a heat guard and goatskin bellows; burns two hours on one fill.',
  ),
  item(
    'copper-smoker-small',
    'Copper smoker, small',
    'Smokers',
    1895,
    'The same build for a jacket pocket and a quick look.',
  ),
  item('steel-smoker', 'Stainless smoker', 'Smokers', 1420, 'Plain, light and hard to dent.'),
  item('smoker-fuel-2kg', 'Smoker fuel, 2 kg', 'Smokers', 850, 'Pressed cotton and lavender stalks, slow and cool.'),
  item(
    'cedar-hive-six',
    'Cedar hive, six-frame',
    'Hives',
    15900,
    'Western red cedar, flat-packed, with stainless fixings.',
  ),
  item(
    'cedar-hive-eleven',
    'Cedar hive, eleven-frame',
    'Hives',
    21900,
    'The full-size body with two supers and a slatted floor.',
  ),
  item('poly-nucleus', 'Polystyrene nucleus box', 'Hives', 4450, 'Warm over winter, with a feeder cast into the wall.'),
  item('hive-stand', 'Hive stand, larch', 'Hives', 3295, 'Keeps the floor off wet grass; takes two hives.'),
  item('mesh-floor', 'Open mesh floor', 'Hives', 2850, 'With a sliding board for counting mites.'),
  item(
    'ventilated-suit-m',
    'Ventilated suit, M',
    'Clothing',
    12900,
    'Three layers of mesh that no sting reaches through.',
  ),
  item(
    'ventilated-suit-l',
    'Ventilated suit, L',
    'Clothing',
    12900,
    'Three layers of mesh that no sting reaches through.',
  ),
  item('cotton-jacket', 'Cotton jacket with fencing veil', 'Clothing', 5600, 'Heavy drill, washes at sixty.'),
  item('goatskin-gloves', 'Goatskin gloves', 'Clothing', 1750, 'Long cuffs, soft after one season.'),
  item(
    'extractor-four',
    'Extractor, four-frame, hand',
    'Extraction',
    24800,
    'Tangential cage in a food-grade drum, geared two to one.',
  ),
  item(
    'extractor-nine',
    'Extractor, nine-frame, electric',
    'Extraction',
    68900,
    'Radial, 180 W, with a ramp that saves new comb.',
  ),
  item('double-strainer', 'Double strainer', 'Extraction', 2195, 'Coarse over fine, in stainless steel.'),
  item('settling-tank-50', 'Settling tank, 50 kg', 'Extraction', 11400, 'With a cut-off tap that does not drip.'),
  item('uncapping-fork', 'Uncapping fork', 'Extraction', 795, 'Twenty-one tines, beech handle.'),
  item('jars-340-72', 'Jars 340 g, case of 72', 'Jars', 3120, 'Squat glass with gold lids.'),
  item('jars-227-84', 'Jars 227 g, case of 84', 'Jars', 2990, 'For gift boxes and tasters.'),
  item('lids-gold-100', 'Lids, gold, bag of 100', 'Jars', 1150, 'Flowed-in seal, for 63 mm necks.'),
  item(
    'wax-sheets-deep',
    'Wax sheets, deep, wired, 10',
    'Wax and feed',
    1680,
    'Milled from clean wax, with crimped wire.',
  ),
  item('fondant-12', 'Fondant 12.5 kg', 'Wax and feed', 1950, 'Ready for winter, in a box that opens in the hive.'),
  item('syrup-14', 'Feeding syrup 14 kg', 'Wax and feed', 2480, 'Inverted, does not crystallise in the feeder.'),
];

/** Finds an item by its place in the address. */
export function findItem(slug: string): Item | undefined {
  return ITEMS.find((each) => each.slug === slug);
}
