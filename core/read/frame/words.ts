import { boundedCache } from '../../value/cache';
import { latinDigits } from '../../value/digits';
import { foldText } from '../../value/parse';

// What words around a value say, in the languages that shops write. Three lists: words that change nothing, lines that
// move by themselves, and words that change what a number is wherever they stand. What is on none of them counts where
// it stands close.

const any = (...sources: string[]) => new RegExp(sources.join('|'), 'giu');
/** Words by themselves: not a part of longer ones. */
const word = (...sources: string[]) => String.raw`(?<![\p{L}\p{N}])(?:${sources.join('|')})(?![\p{L}\p{N}])`;

/** What says no more of a price than that it is the price. */
const NEUTRAL = any(
  word(
    String.raw`inc(?:l(?:uding|\.)?|\.)?\s*(?:of\s+)?(?:\d+\s*%\s*)?(?:vat|tax(?:es)?|gst)`,
    String.raw`(?:vat|tax(?:es)?|gst)\s+incl(?:uded|\.)?`,
  ),
  word(
    String.raw`(?:inkl(?:usive|\.)?|einschl\.?)\s*(?:\d+\s*%\s*)?(?:mwst\.?|ust\.?|moms|mva)`,
    String.raw`zzgl\.?\s*versand(?:kosten)?`,
  ),
  word(
    'ttc',
    'toutes taxes comprises',
    'iva incl(?:uida|usa|\\.)?',
    'btw incl(?:\\.|usief)?',
    'incl\\.? btw',
    'z vat',
    'brutto',
  ),
  String.raw`[(（]?税込[)）]?`,
  word(
    'now',
    'only',
    'just',
    'nur',
    'jetzt',
    'seulement',
    'maintenant',
    'ahora',
    'solo',
    'ora',
    'nu',
    'endast',
    'bare',
    'kun',
    'alleen',
  ),
  word(
    'you pay',
    'buy (?:it )?(?:now )?(?:for|at)',
    'yours for',
    'kaufen (?:für|um)',
    'sie zahlen',
    'acheter (?:à|pour)',
  ),
  word(
    'the',
    'our',
    'your',
    'its?',
    'costs?',
    'is',
    'unser',
    'ihr',
    'notre',
    'votre',
    'nuestro',
    'nostro',
    'onze',
    'vår',
    'vores',
  ),
  word(
    '(?:current|sale|selling|retail|regular|todays?|today’s|actual)?\\s*prices?',
    'preise?',
    'verkaufspreis',
    'kaufpreis',
    'prix',
    'precio',
    'prezzo',
    'prijs',
    'pris',
    'preço',
    'hinta',
    'cena',
  ),
  // Whether it can be had says nothing of what it costs.
  word(
    'in stock',
    'ready to send',
    'auf lager',
    'sofort lieferbar',
    'en stock',
    'i lager',
    'på lager',
    'op voorraad',
    'disponibile',
  ),
  String.raw`価格|販売価格|价格`,
);

/** The same said otherwise: the basis of a price in several words and languages. */
const SAME_BASIS: readonly [RegExp, string][] = [
  [
    any(
      word(
        'price each',
        'per (?:piece|item|unit)',
        'apiece',
        'stückpreis',
        'einzelpreis',
        '(?:je|pro) stück',
        '(?:à )?la pièce',
        'per stuk',
        'st(?:yck)?pris',
      ),
    ),
    ' each ',
  ],
  [
    any(
      word(
        '(?:per|a|each|every|/) ?month',
        'monthly',
        'pcm',
        'p/m',
        '/ ?mo',
        'pro monat',
        'monatlich',
        'par mois',
        '/ ?mois',
        '/ ?monat',
        'al mes',
        'al mese',
      ),
    ),
    ' monthly ',
  ],
  [
    any(
      word(
        '(?:per|a|each|every|/) ?year',
        'yearly',
        'annually',
        'pro jahr',
        'jährlich',
        'par an',
        '/ ?an',
        '/ ?jahr',
        '/ ?yr',
        'p\\.?a',
      ),
    ),
    ' yearly ',
  ],
  [any(word('(?:per|a|/) ?week', 'weekly', 'pw', 'pro woche', 'par semaine')), ' weekly '],
  [any(word('(?:per|a|/) ?(?:night)', 'pro nacht', 'par nuit')), ' nightly '],
];

/** What a price is of several of, or a part of. */
const PACK = any(
  word(
    'pack of \\d+',
    'packs?',
    'pair',
    'each',
    'bundle',
    'buy \\d+',
    'any \\d+',
    'case of \\d+',
    'set of \\d+',
    '\\d+er-?pack',
    'doppelpack',
    'lot de \\d+',
  ),
);
export const saysHowMany = (line: string) => line.search(PACK) >= 0;

/**
 * Lines that move by themselves and say nothing of what the number is: stock, delivery, baskets, what others think,
 * when it was looked up.
 */
const MOVING = any(
  word(
    '(?:in|out of|low|back in) stock',
    'stock',
    'sold out',
    'none left',
    '\\d+ left',
    'left',
    'available',
    'availability',
    'only \\d+',
    'hurry',
    '\\d+ sold',
    'backorder',
    'pre-?order',
  ),
  word(
    'deliver(?:y|ed|s)?',
    'dispatch(?:ed|es)?',
    'ship(?:s|ped|ping)?',
    'postage',
    'carriage',
    '(?:free|easy) returns?',
    'returns',
    'collect(?:ion)?',
    'click and collect',
  ),
  word(
    'basket',
    'cart',
    'bag',
    'wish\\s?list',
    'compare',
    'share',
    'print',
    'add',
    'buy',
    'quantity',
    'qty',
    'checkout',
    'pay securely',
  ),
  word(
    'reviews?',
    'ratings?',
    'stars?',
    '\\d+ bids?',
    '\\d+ views?',
    'watching',
    'followers',
    'questions?',
    'answers?',
  ),
  word(
    'updated?',
    'as (?:of|at)',
    'last (?:updated|read|seen|checked)',
    'measured',
    'ends?',
    'closes?',
    'closed',
    'closing',
    'open(?:s|ed)?',
    'dealing day',
    'published',
    'checked',
  ),
  word('guarantee', 'warranty', 'trusted', 'secure'),
  word(
    'lager',
    'auf lager',
    'liefer\\p{L}*',
    'versand\\p{L}*',
    'verfügbar\\p{L}*',
    'warenkorb',
    'bewertung\\p{L}*',
    'stand',
    'ausverkauft',
    'vorrätig',
    'menge',
  ),
  word('en stock', 'livraison\\p{L}*', 'exemplaires?', 'panier', 'disponib\\p{L}*', 'expédi\\p{L}*', 'avis', 'épuisé'),
  word(
    'envío',
    'agotado',
    'carrito',
    'entrega',
    'spedizione',
    'carrello',
    'voorraad',
    'levering',
    'bezorg\\p{L}*',
    'leverans',
    'frakt',
    'slutsåld',
    'på lager',
  ),
  String.raw`在庫|残り|カート|送料|配送|レビュー`,
);

/**
 * What changes the sense of a number wherever on the page it stands: who pays it, for what, how often, without what, in
 * which state.
 */
const SENSE = any(
  word(
    'used',
    'second.?hand',
    'pre.?owned',
    'pre.?loved',
    'refurb\\p{L}*',
    'renewed',
    'reconditioned',
    'open.?box',
    'ex.?display',
    'like new',
    'damaged',
    'parts only',
  ),
  word(
    'gebraucht\\p{L}*',
    'generalüberholt\\p{L}*',
    'b-ware',
    'occasion',
    'reconditionné\\p{L}*',
    'usato',
    'segunda mano',
    'tweedehands',
    'begagna\\p{L}*',
    'brukt',
    'brugt',
  ),
  word(
    "member\\p{L}*[’']?s?",
    'club',
    'loyalty',
    'card',
    'subscri\\p{L}*',
    'sign.?in',
    'log.?in',
    'students?',
    'seniors?',
    'pensioners?',
    'teachers?',
    'famil(?:y|ies)',
    'groups?',
    'child(?:ren)?',
    'kids?',
    'concession\\p{L}*',
    'trade',
    'wholesale',
    'business',
    'mitglied\\p{L}*',
    'abo\\p{L}*',
    'karte',
    'adhérent\\p{L}*',
    'carte',
    'socios?',
    'leden',
    'medlem\\p{L}*',
  ),
  word(
    '(?:ex|excl|excludes?|excluding|without|before|plus|net of|\\+)\\.?\\s*(?:vat|tax(?:es)?|gst)',
    'ex\\.? ?vat',
    'net',
    'netto',
    'zzgl\\.?\\s*(?:mwst|ust)\\.?',
    'ohne (?:mwst|steuer)\\p{L}*',
    'hors taxes?',
    'ht',
    'sin iva',
    'iva esclusa',
    'excl\\.? btw',
    'exkl\\.? moms',
    'uten mva',
    'ekskl\\p{L}*',
  ),
  String.raw`税抜|税別|中古|会員`,
  word(
    'deposit',
    'down.?payment',
    'up.?front',
    'instal\\p{L}*',
    'finance',
    'apr',
    'anzahlung',
    'kaution',
    'rate[n]?',
    'acompte',
    'mensualit\\p{L}*',
    'caution',
    'fianza',
  ),
  word(
    '(?:per|a|each|every|/)\\s*(?:hour|day|night|week|month|quarter|year)',
    'monthly',
    'weekly',
    'yearly',
    'annual(?:ly)?',
    'billed',
    'pcm',
    'pppw',
    'pw',
    'p/m',
    '/mo',
    'pro (?:tag|monat|jahr|woche)',
    'monatlich',
    'par mois',
    'par an',
    'al mes',
    'al mese',
    'per maand',
    'i månaden',
    'per month',
  ),
  word(
    '(?:from|ab|desde|fra|från|vanaf|à partir de)(?=\\s*(?:[#@\\d\\p{Sc}]|$))',
    'as low as',
    'starting',
    'up to',
    'estimated?',
    'approx\\p{L}*',
    'guide',
  ),
  word(
    'sav(?:e|es|ed|ing|ings)',
    'off',
    'discount\\p{L}*',
    'coupon',
    'voucher',
    'promo\\p{L}*',
    'code',
    'cashback',
    'trade.?in',
    'rebate',
    'rabatt',
    'gutschein',
    'sie sparen',
    'économi\\p{L}*',
    'remise',
    'descuento',
    'sconto',
    'korting',
  ),
  word(
    'when (?:you|buying)',
    'buy (?:any )?\\d+',
    'any \\d+',
    'multi.?buy',
    'pack of \\d+',
    'pair',
    'bundle',
    'half',
    'sample',
    'ab \\d+ stück',
    'doppelpack',
    'lot de \\d+',
  ),
  word(
    'instead',
    'alternativ\\p{L}*',
    'substitut\\p{L}*',
    'similar',
    'replac(?:ed|es|ement)',
    'successor',
    'try',
    'like this',
    'you may',
    'ersatz',
    'nachfolger',
    'stattdessen',
    'remplac\\p{L}*',
    'withdrawn',
    'discontinued',
    'no longer',
    'not yet',
  ),
  word(
    'former(?:ly)?',
    'was',
    'previous(?:ly)?',
    'rrp',
    'list price',
    'uvp',
    'statt',
    'forecast',
    'yesterday\\p{L}*',
    'next',
    'future',
    'provisional',
    'per person',
    'pp',
    'pro person',
    'par personne',
  ),
);

const MONTHS = String.raw`jan\p{L}*|feb\p{L}*|mar\p{L}*|apr\p{L}*|may|mai|jun\p{L}*|jul\p{L}*|aug\p{L}*|sep\p{L}*|o[ck]t\p{L}*|nov\p{L}*|de[cz]\p{L}*|märz|févr\p{L}*|avril|août`;
const TIMES = any(
  String.raw`\d{4}-\d{2}-\d{2}(?:[t ]\d{2}:\d{2}(?::\d{2})?z?)?`,
  String.raw`(?<!\d)\d{1,2}[./]\d{1,2}[./]\d{2,4}(?!\d)`,
  String.raw`(?<!\d)\d{1,2}(?:st|nd|rd|th|\.)?\s+(?:${MONTHS})(?![\p{L}])\.?(?:\s+\d{4})?`,
  String.raw`(?<!\p{L})(?:${MONTHS})\.?\s+\d{1,2}(?:st|nd|rd|th)?(?!\d)(?:,?\s+\d{4})?`,
  String.raw`(?<!\d)\d{1,2}:\d{2}(?::\d{2})?\s*(?:am|pm|uhr|h)?(?![\d\p{L}])`,
  String.raw`(?<!\d)\d{1,2}[.]\d{2}\s*(?:am|pm|uhr)(?![\d\p{L}])`,
);

/** Sums, shares and measured numbers: they move. Counts do not: `buy 2`, `12 months`. */
const AMOUNTS = any(
  String.raw`[-+±]?\s?\p{Sc}\s?[-+]?\d[\d.,'’  ]*`,
  String.raw`[-+±]?\d[\d.,'’]*\s?(?:\p{Sc}|%|(?:kr|eur|usd|gbp|chf|zł)(?!\p{L}))`,
  String.raw`(?<![\p{L}\d])[-+±]\s?\d[\d.,]*`,
  String.raw`(?<![\p{L}\d])\d{1,3}(?:[.,]\d{3})*[.,]\d+(?![\p{L}\d])`,
  String.raw`(?<![\p{L}\d])\d+(?:[.,]\d+)?p(?![\p{L}\d])`,
  String.raw`\(\d+\)`,
);

const MOST_KEPT = 20_000;
const LONGEST_KEPT = 200;

/**
 * Worked out once for a short text: the lines of a page are much the same at each run, and those of a list from row to
 * row.
 */
function keptWords<Made>(make: (text: string) => Made): (text: string) => Made {
  const kept = boundedCache<{ made: Made }>(MOST_KEPT);
  return (text) => (text.length > LONGEST_KEPT ? make(text) : kept(text, () => ({ made: make(text) })).made);
}

/** A text as it is compared: one case, one kind of quotation mark, no marks at its ends. */
export const plainWords = keptWords((text) =>
  latinDigits(foldText(text))
    .toLowerCase()
    .replace(/[‘’`´]/g, '’')
    .replace(/(?:(?<!\d)[,:]|[,:](?!\d)|[|•·–—>»：;*†‡])+/gu, ' ')
    .replace(/\s+/g, ' ')
    .replace(/\.(?=\s|$)/g, '')
    .trim(),
);

/** The same without sums and measured numbers, and without dates and times. */
export const withoutAmounts = keptWords((text) => onlyWithoutAmounts(text.replace(TIMES, '@')));
const onlyWithoutAmounts = (text: string) => text.replace(AMOUNTS, '#');
/** The same without dates and times. */
export const withoutTimes = (text: string) => text.replace(TIMES, '@').replace(/\(\d+\)/g, '');

/**
 * What is left of words beside a value once those that change nothing are taken out, and sums of others, dates and
 * times.
 */
export const telling = keptWords((text) => tellingIn(withoutAmounts(plainWords(text))));
/** The same with its dates and times: elsewhere on a page they may be what is chosen. */
export const tellingWithTimes = keptWords((text) => tellingIn(onlyWithoutAmounts(plainWords(text))));

function tellingIn(words: string): string {
  const based = SAME_BASIS.reduce((text, [pattern, basis]) => text.replace(pattern, basis), words);
  return foldText(
    based
      .replace(NEUTRAL, ' ')
      .replace(/[#()[\]+"“”]/g, ' ')
      .replace(/\s-\s/g, ' '),
  );
}

/** Whether a line moves by itself, and says nothing of what a number is. */
export const moves = keptWords(
  (line) => !/\p{L}/u.test(withoutAmounts(line)) || (MOVING.test(reset(MOVING, line)) && senseOf(line).length === 0),
);

/** Whether nothing else is said in a few words than what moves by itself. */
export const onlyMoves = keptWords(
  (words) => !/\p{L}/u.test(withoutAmounts(words).replace(MOVING, ' ').replace(/@/g, ' ')),
);

/** What another price beside it is: of bringing it, of booking it. */
const OTHER_COSTS =
  /^(?:p&p|postage|delivery|shipping|carriage|versand|versandkosten|lieferung|livraison|frakt|porto|(?:booking |service )?fees?)(?: (?:costs?|charges?|prices?|fees?))?$/;
export const isOtherCost = (label: string) => OTHER_COSTS.test(plainWords(label));

/** The words of a line that change what a number is wherever they stand, each once. */
export const senseOf = keptWords((line): readonly string[] =>
  LETTER.test(line) ? [...new Set(line.match(SENSE) ?? [])] : [],
);

const LETTER = /\p{L}/u;

/** A pattern that goes on where it left off begins anew. */
function reset(pattern: RegExp, line: string): string {
  pattern.lastIndex = 0;
  return line;
}

/** Whether a line is the name of what stands below it: a few words, and no sentence. */
export const isLabelLike = (line: string) => line.length <= 40 && !/[.!?]$/.test(line) && line.split(' ').length <= 6;

const FIGURES = String.raw`(?:prices?|rates?|fares?|fees|tariffs?|charges|amounts?|sums|figures|values|levels|preise?|beträge|kurse|prix|tarifs?|montants?|precios?|prezzi|prijzen|priser|料金|価格)`;
const OF_FIGURES = new RegExp(
  String.raw`^(?:all|our|the|these|alle|unsere|tous|nos|les|todos|tutti)?\s*(?:the\s+)?${FIGURES}(?!\p{L})|(?<!\p{L})(?:showing|viewing|displaying|shown|displayed|selected|applies to|angezeigt|affichés?|税|deliver(?:ing|y)? to|ship(?:ping)? to|liefer\p{L}* (?:nach|an)|livr\p{L}+ (?:à|en)|your (?:\p{L}+ )?(?:region|store|branch|country|location|area|postcode|plan|size)|(?:region|store|branch|country|currency|location)$)`,
  'u',
);
/**
 * Whether a line says how the figures of a page are meant: `Prices exclude VAT`, `All fares are for members`, `Showing
 * used copies`.
 */
export const speaksOfFigures = keptWords((line) => OF_FIGURES.test(line));

const NOTICE =
  /^(?:call|phone|tel|telephone|telefon|téléphone|hotline|fax|e-?mail|mail|contact|kontakt|address|open(?:ing)?|hours|öffnungszeiten|horaires|news?|neu|nouveau|now|today|heute|this week|tip|offers?|deals?|sales?|angebot|aktion|note|hinweis|did you know|coming soon|just in|order now|follow us|\p{L}+ (?:sale|deals?|offers?|opening|hours))(?!\p{L})/u;
/** Whether a label leads what is told to whoever comes by: how to reach a shop, when it is open, what is new. */
export const leadsNotice = keptWords((label) => NOTICE.test(label));
