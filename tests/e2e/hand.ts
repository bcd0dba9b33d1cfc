/** A person's hand at the page: the same task by pointer alone, or by keyboard alone, with its acts counted. */
import { By, Key, PATIENCE, marked } from './browser';
import type { Page } from './browser';

/** The views in the order of their keys. */
const VIEWS = ['board', 'ways-out', 'subnets', 'passage', 'proof', 'state', 'change', 'text'] as const;

export type Way = 'pointer' | 'keyboard';

/** A click, a key, or a value typed into a field is an act each. */
export class Hand {
  acts = 0;
  constructor(
    readonly page: Page,
    readonly way: Way,
  ) {}

  private async keys(...keys: string[]): Promise<void> {
    this.acts += keys.length;
    for (const key of keys) await this.page.press(key);
  }

  async click(id: string): Promise<void> {
    this.acts++;
    await this.page.click(id);
  }

  /** Where the keyboard is: the test id, else the id, else what it is called. */
  private focused(): Promise<string> {
    return this.page.ask<string>(
      '(() => { const e = document.activeElement; return e?.dataset?.testid || e?.id || e?.getAttribute?.("aria-label") || e?.textContent?.trim() || ""; })()',
    );
  }

  press(...keys: string[]): Promise<void> {
    return this.keys(...keys);
  }

  /** Goes over the board by arrows to something. */
  async arrowsTo(id: string, ...arrows: string[]): Promise<void> {
    await this.keys(...arrows);
    await this.page.driver.wait(
      async () => (await this.focused()) === id,
      PATIENCE,
      `the arrows do not lead to ${id}; they are at ${await this.focused()}`,
    );
  }

  /** Goes to a control by Tab alone. */
  private async tabTo(id: string, most = 90): Promise<void> {
    for (let n = 0; n < most; n++) {
      if ((await this.focused()) === id) return;
      await this.keys(Key.TAB);
    }
    throw new Error(`Tab does not lead to ${id}; it is at ${await this.focused()}`);
  }

  /** Asks for something by the trade's words. */
  async want(words: string, id: string): Promise<void> {
    if (this.way === 'pointer') {
      await this.click('wants-button');
      await this.click(`want-${id}`);
    } else {
      await this.keys('a');
      await this.page.get('wants-sieve');
      this.acts++;
      await this.page.press(words);
      await this.page.holds(
        `document.querySelector('[role=option][aria-selected=true]')?.dataset.testid === 'want-${id}'`,
        `“${words}” does not lead to ${id}`,
      );
      await this.keys(Key.ENTER);
    }
    await this.page.get('maker');
  }

  /** Puts a value into a field of the form, or of the sheet. */
  async put(id: string, value: string): Promise<void> {
    await this.page.get(id);
    const field = `${marked(id)}[0]`;
    const option = `${field}.querySelector('option[value="${value}"]')`;
    const isList = await this.page.ask<boolean>(`${field}.tagName === 'SELECT'`);
    if (this.way === 'pointer') {
      await this.click(id);
      if (isList) {
        this.acts++;
        await (await this.page.get(id)).findElement(By.css(`option[value="${value}"]`)).click();
        return;
      }
    } else await this.tabTo(id);
    this.acts++;
    if (isList) {
      const text = await this.page.ask<string>(`${option}.text`);
      await this.page.press(text.slice(0, 12));
    } else {
      await this.page.control('a');
      await this.page.press(value);
    }
  }

  /** Writes what the form says. */
  async write(): Promise<void> {
    if (this.way === 'pointer') await this.click('making-write');
    else await this.keys(Key.ENTER);
    await this.page.gone('maker');
  }

  /** Presses a button that says what comes next. */
  async go(id: string): Promise<void> {
    await this.page.get(id);
    const button = `${marked(id)}[0]`;
    await this.page.holds(`!${button}.disabled`, `${id} is not enabled`);
    if (this.way === 'pointer') return this.click(id);
    if (await this.page.ask<boolean>(`${button}.matches('[data-testid="first-light"] .btn-primary')`)) {
      this.acts++;
      return this.page.control(Key.ENTER);
    }
    await this.tabTo(id);
    await this.keys(Key.ENTER);
  }

  /** Goes to a view. */
  async view(name: (typeof VIEWS)[number]): Promise<void> {
    if (this.way === 'pointer') return this.click(`view-${name}`);
    const key = String(VIEWS.indexOf(name) + 1);
    await this.page.blur();
    await this.keys(key);
  }
}
