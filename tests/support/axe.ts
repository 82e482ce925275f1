import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import type { AxeResults } from 'axe-core';
import type { WebDriver } from 'selenium-webdriver';

const SOURCE = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

/**
 * What axe finds serious on a page, each with where, by all of its rules or by those that are named; mails in frames
 * have a test of their own. It is handed to the page once, and works there.
 */
export async function serious(driver: WebDriver, rules?: string[]): Promise<string[]> {
  const options = rules === undefined ? {} : { runOnly: rules };
  const { violations } = await driver.executeScript<AxeResults>(
    `if (window.axe === undefined) { ${SOURCE}; }
     return axe.run({ exclude: ['iframe'] }, { ...arguments[0], iframes: false, resultTypes: ['violations'] });`,
    options,
  );
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${id}: ${nodes[0]?.html ?? ''}`);
}
