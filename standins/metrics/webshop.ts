import type { Router } from 'express';
import express from 'express';
import { chance } from '../world/random';
import type { World } from '../world/world';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;
const BEGINNING = Date.UTC(2026, 0, 1);
const REGIONS = ['north', 'south', 'wales', 'abroad'];
const DEVICES = ['desktop', 'phone', 'tablet'];

/** The web shop's figures: counters in OpenMetrics, a daily summary in JSON, advertising spend in CSV. */
export function webshop(world: World): Router {
  const router = express.Router();
  router.get(
    '/metrics',
    (_request, response) =>
      void response.type('application/openmetrics-text; version=1.0.0; charset=utf-8').send(exposition(world)),
  );
  router.get('/summary.json', (_request, response) => void response.type('json').send(summary(world)));
  router.get('/spend.csv', (_request, response) => void response.type('text/csv').send(spend(world)));
  return router;
}

/** How much a rate of so many an hour has brought since a moment: more by day than by night, never less than before. */
function total(world: World, what: string, perHour: number): number {
  const begun = world.pushedAt('counter', 'webshop') ?? BEGINNING;
  return (
    Math.floor(grown(what, perHour, world.clock())) -
    (begun === BEGINNING ? 0 : Math.floor(grown(what, perHour, begun)))
  );
}

function grown(what: string, perHour: number, at: number): number {
  const hours = (at - BEGINNING) / HOUR;
  const peak = 13 + chance(what, 'peak') * 6;
  const swing = (24 / (2 * Math.PI)) * 0.8 * (Math.sin(((hours - peak + 6) / 24) * 2 * Math.PI) + 1);
  return perHour * (hours + swing);
}

function exposition(world: World): string {
  const lines = ['# TYPE orders counter', '# HELP orders Orders taken.'];
  for (const region of REGIONS)
    for (const device of DEVICES)
      lines.push(
        `orders_total{region="${region}",device="${device}"} ` +
          `${total(world, `orders ${region} ${device}`, rate(region, device))}`,
      );
  lines.push('# TYPE visits counter', '# HELP visits Visits begun.');
  for (const region of REGIONS)
    for (const device of DEVICES)
      lines.push(
        `visits_total{region="${region}",device="${device}"} ` +
          `${total(world, `visits ${region} ${device}`, rate(region, device) * 31)}`,
      );
  lines.push('# TYPE basket_value gauge', '# UNIT basket_value GBP', '# HELP basket_value Mean value of a basket.');
  for (const device of DEVICES)
    lines.push(
      `basket_value{device="${device}"} ${(38 + chance(device, Math.floor(world.clock() / HOUR)) * 14).toFixed(2)}`,
    );
  lines.push('# EOF');
  return `${lines.join('\n')}\n`;
}

function rate(region: string, device: string): number {
  return 1.5 + chance(region, device, 'rate') * 9;
}

function summary(world: World): string {
  const today = Math.floor((world.clock() - BEGINNING) / DAY);
  const days = Array.from({ length: 14 }, (_, back) => today - 1 - back).map((day) => {
    const date = new Date(BEGINNING + day * DAY).toISOString().slice(0, 10);
    const orders = 140 + Math.floor(chance(day, 'orders') * 90);
    return `{"date":"${date}","orders":${orders},"visits":${orders * 31 + Math.floor(chance(day, 'visits') * 400)},"revenue":{"amount":${(orders * (41 + chance(day, 'basket') * 9)).toFixed(2)},"currency":"GBP"},"refunds":${(chance(day, 'refunds') * 320).toFixed(2)}}`;
  });
  return `{"shop":"Heatherlow","days":[${days.join(',')}]}`;
}

/** As a German tool exports it: semicolons, decimal commas, days first. */
function spend(world: World): string {
  const today = Math.floor((world.clock() - BEGINNING) / DAY);
  const rows = Array.from({ length: 20 }, (_, back) => today - 1 - back).flatMap((day) =>
    ['Search', 'Display', 'Newsletter'].map((campaign) => {
      const date = new Date(BEGINNING + day * DAY).toISOString().slice(0, 10).split('-').reverse().join('.');
      const amount = (20 + chance(day, campaign, 'spend') * 90).toFixed(2).replace('.', ',');
      return `${date};${campaign};${amount};${200 + Math.floor(chance(day, campaign, 'clicks') * 900)}`;
    }),
  );
  return `day;campaign;spend EUR;clicks\r\n${rows.join('\r\n')}\r\n`;
}
