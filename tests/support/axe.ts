import AxeBuilder from '@axe-core/webdriverjs';
import type { WebDriver } from 'selenium-webdriver';

/** What axe finds serious on a page, each with where; mails in frames have a test of their own. */
export async function serious(driver: WebDriver): Promise<string[]> {
  const { violations } = await new AxeBuilder(driver).exclude('iframe').analyze();
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .map(({ id, nodes }) => `${id}: ${nodes[0]?.html ?? ''}`);
}
