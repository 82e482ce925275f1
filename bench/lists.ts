import { offerOf, openAny } from '#core/read/inspect/offer';
import { median, say, spread } from './figures';

// Looking a page of 10,000 rows through for what could be watched, over parsing it alone with the same parser.

const ROWS = 10_000;
const ROUNDS = 7;

const PAGES: Record<string, (at: number) => string> = {
  'rows of a table': (at) => `<tr><td>Item ${at}</td><td>B</td><td>£${at}.00</td></tr>`,
  cards: (at) => `<div class="card"><h3>Item ${at}</h3><p class="price">£${at}.50</p><a href="/i/${at}">see</a></div>`,
  headings: (at) => `<h2>Heading ${at}</h2><p>£${at}.50</p>`,
  labels: (at) => `<dl><dt>Label</dt><dd>£${at}.50</dd></dl>`,
  spans: (at) => `<span>£${at}.50</span>`,
};

/** Measures proposals for long lists. */
export function benchLists(): void {
  for (const [name, row] of Object.entries(PAGES)) {
    const list = Array.from({ length: ROWS }, (_, at) => row(at)).join('\n');
    const text =
      '<html ' +
      `lang="en-GB"><body><h1>List</h1>${name.startsWith('rows') ? `<table><tr><th>Name</th><th>Grade</th><th>Price</th></tr>${list}</table>` : list}`;
    const figures = Array.from({ length: ROUNDS + 1 }, () => timed(text)).slice(1);
    const proposed = median(figures.map((each) => each.proposed));
    say(
      `${ROWS.toLocaleString('en')} ${name}: proposed in ${proposed.toFixed(0)} ms; over the parse alone ` +
        `${spread(figures.map((each) => each.proposed / each.parsed))}`,
    );
  }
}

function timed(text: string): { parsed: number; proposed: number } {
  const began = performance.now();
  const opened = openAny(text, 0);
  const parsed = performance.now();
  offerOf(opened);
  return { parsed: parsed - began, proposed: performance.now() - parsed };
}
