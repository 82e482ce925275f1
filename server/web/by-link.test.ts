import { expect, it } from 'vitest';
import { loggedPath } from './by-link';

it.each([
  ['/take/AbC-_9', '/take/…'],
  ['/reader/AbC.data', '/reader/…'],
  ['/in/AbC/more', '/in/…/more'],
  ['/m/x7', '/m/…'],
  ['/watches/7', '/watches/7'],
  ['/reader', '/reader'],
  ['/', '/'],
])('the path %s stands in the log as %s', (path, logged) => expect(loggedPath(path)).toBe(logged));
