/** Tasks of a page's main thread that take over 50 ms, as the page itself is told of them. */
import type { WebDriver } from 'selenium-webdriver';

/** Notes them from now on. */
export const watchTasks = (driver: WebDriver) =>
  driver.executeScript(`
    window.longTasks = [];
    new PerformanceObserver((list) => {
      for (const entry of list.getEntries()) window.longTasks.push(entry.duration);
    }).observe({ type: 'longtask' });`);

/** What was noted since it was asked last, in whole ms; `none` where nothing was. */
export async function longTasks(driver: WebDriver): Promise<string> {
  const long = await driver.executeScript<number[]>('return window.longTasks.splice(0)');
  return long.map((t) => t.toFixed(0)).join(', ') || 'none';
}
