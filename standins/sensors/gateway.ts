import type { Router } from 'express';
import express from 'express';
import { chance } from '../world/random';
import { keyOf, type World } from '../world/world';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
const HIVES = [1, 2, 3, 4, 5, 6];

interface Sensor {
  name: string;
  unit: string | null;
  read: (world: World, at: number) => number | boolean;
}

/** A smooth wander between seeded points an hour apart, in [0, 1]. */
function wander(name: string, at: number): number {
  const hour = Math.floor(at / HOUR);
  const share = (at % HOUR) / HOUR;
  return chance(name, hour) * (1 - share) + chance(name, hour + 1) * share;
}

const daily = (at: number) => Math.sin(((at % DAY) / DAY - 0.35) * 2 * Math.PI);
const around = (base: number, swing: number, noise: number) => (name: string) => (_world: World, at: number) =>
  base + daily(at) * swing + (wander(name, at) - 0.5) * noise;

/** The door stands open for some minutes, a few times by day, or as the stage has it. */
function doorOpen(world: World, at: number): boolean {
  const { door } = world.conduct('store/door', 'gateway');
  if (door !== 'usual') return door === 'open';
  const quarter = Math.floor(at / (15 * MINUTE));
  const byDay = daily(at) > 0;
  return byDay && chance('door', quarter) < 0.08 && at % (15 * MINUTE) < 4 * MINUTE;
}

const motorOn = (at: number) => daily(at) > 0.4 && chance('motor', Math.floor(at / (30 * MINUTE))) < 0.3;

/** Every sensor of the gateway. */
export const SENSORS: readonly Sensor[] = [
  ...HIVES.flatMap((hive): Sensor[] => [
    { name: `hive${hive}/weight`, unit: 'kg', read: around(34 + hive * 1.7, 0.4, 1.2)(`weight ${hive}`) },
    { name: `hive${hive}/brood-temperature`, unit: 'Cel', read: around(34.6, 0.3, 0.8)(`brood ${hive}`) },
    { name: `hive${hive}/humidity`, unit: '%RH', read: around(61, 4, 9)(`humidity ${hive}`) },
  ]),
  { name: 'store/temperature', unit: 'Cel', read: around(16.5, 1.8, 1.5)('store temperature') },
  { name: 'store/humidity', unit: '%RH', read: around(55, 3, 8)('store humidity') },
  { name: 'store/door', unit: null, read: doorOpen },
  { name: 'extractor/motor', unit: null, read: (_world, at) => motorOn(at) },
  { name: 'extractor/speed', unit: '%', read: (_world, at) => (motorOn(at) ? 40 + wander('speed', at) * 55 : 0) },
];

/** The sensor gateway: SenML in JSON (RFC 8428), each point at its own last full minute, with a quality. */
export function gateway(world: World): Router {
  const router = express.Router();
  router.get('/senml', (_request, response) => void response.type('application/senml+json').send(pack(world)));
  return router;
}

/** A pack of every sensor's point at its last full minute. */
export function pack(world: World): string {
  const now = world.clock();
  const at = now - (now % MINUTE);
  const points = SENSORS.flatMap((sensor) => pointOf(world, sensor, at));
  return `[{"bn":"apiary/","bt":${at / 1000},"bver":10},\n${points.join(',\n')}]`;
}

function pointOf(world: World, sensor: Sensor, at: number): string[] {
  const { sensor: conduct } = world.conduct(sensor.name, 'gateway');
  if (conduct === 'silent') return [];
  const natural = sensor.read(world, at);
  const value = typeof natural === 'number' && conduct === 'spiking' ? natural * 1.6 + 5 : natural;
  const said = typeof value === 'boolean' ? `"vb":${value}` : `"v":${value.toFixed(sensor.unit === 'kg' ? 2 : 1)}`;
  const unit = sensor.unit === null ? '' : `"u":"${sensor.unit}",`;
  const quality = conduct === 'bad' || chance(sensor.name, at, 'quality') < 0.002 ? 'bad' : 'good';
  return [`{"n":"${sensor.name}",${unit}${said},"quality":"${quality}"}`];
}

/** How a sensor is called among the pushes. */
export const sensorKey = (name: string) => keyOf('gateway', name);
