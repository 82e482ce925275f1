import { request } from 'node:http';
import { setTimeout as sleep } from 'node:timers/promises';
import { ask, fromOwnPage } from '../support/requests';
import { asFile, documentOf } from '../support/watch-document';

// What visitors send that is long, often or at once: it costs them their own time, and nobody else's.

const MB = 1_000_000;

/** Thousands of watches, none of which can be taken. */
const NO_RULES = documentOf(
  2_000,
  Array.from({ length: 20 }, () => ({ when: { kind: 'x' } })),
);

const manyItems = (): string => `reference,name\r\n${'HL-900,A smoker of many lines\r\n'.repeat(MB / 10)}`;

const PATTERNS = ['((a?){1000})x', '(((a{30}){30}){30}){30}', `(${'a|'.repeat(5_000)}a)*x`, '(.*)*(.*)*(.*)*x'];
const TEMPLATES = [
  '{{ "x" | where_exp: "a", "b" }}',
  '{% for i in (1..99999999) %}x{% endfor %}',
  '{{ 1 | append: x }}'.repeat(200),
];

/** Views that follow what moves, opened at once and dropped. */
async function follow(web: string, count: number): Promise<void> {
  const opened = Array.from({ length: count }, () => {
    const following = request(`${web}/live?topic=watches`).on('error', () => undefined);
    following.end();
    return following;
  });
  await sleep(500);
  for (const each of opened) each.destroy();
}

/** Each is answered, by whatever status, within its time. */
export async function typed(web: string, count: number): Promise<number> {
  const headers = fromOwnPage(web);
  const file = async (path: string, text: string) => {
    const { body, type } = asFile(text);
    await ask(web, path, { body, headers: { ...headers, 'content-type': type } });
  };
  const form = async (path: string, said: Record<string, string>) => {
    await ask(web, path, { form: said, headers });
  };
  const pattern = (at: number) => PATTERNS[at % PATTERNS.length] ?? '';
  const plan = (at: number) => JSON.stringify({ clauses: [{ verb: 'matches', field: 'price', pattern: pattern(at) }] });
  const ways: ((at: number) => Promise<void>)[] = [
    () => file('/watches/import', NO_RULES),
    () => file('/items/import', manyItems()),
    (at) => form('/watches/1/rehearsal', { rule: plan(at), looks: '[{"at":"","values":{}}]', record: 'page' }),
    (at) =>
      form('/reports/preview', { order: JSON.stringify({ words: { subject: TEMPLATES[at % TEMPLATES.length] } }) }),
    (at) => form('/stencils/new', { rule: plan(at), name: 'x' }),
    () => follow(web, 200),
    (at) => form('/sign-in', { email: `guess${at % 3}@heatherlow.example`, password: 'a guess', to: '/' }),
    (at) =>
      form('/first-owner', { code: `guess ${at}`, name: 'x', email: 'x@heatherlow.example', password: 'x'.repeat(20) }),
  ];
  // Several of each at once.
  for (let at = 0; at < count; at += 4)
    await Promise.all(
      Array.from({ length: 4 }, (_, each) => ways[Math.floor(at / 4 + each) % ways.length]?.(at + each)),
    );
  return count;
}
