/** The real page in headless Chromium, served by the real command. */
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { Builder, By, Key, logging, until } from 'selenium-webdriver';
import type { WebDriver, WebElement } from 'selenium-webdriver';
import { Options, ServiceBuilder } from 'selenium-webdriver/chrome.js';
import { serve } from './serve';

export { By, Key, until };

/** How long a test waits for what must come, in ms: to catch a hang. A busy machine is not a fault. */
export const PATIENCE = 600_000;

/** The crossing once its way is found. */
export const CALM = By.css('[data-testid="crossing"][aria-busy="false"]');

export interface Page {
  readonly driver: WebDriver;
  readonly origin: string;
  readonly downloads: string;
  /** The element with this test id, once it is there and shown. */
  get(id: string): Promise<WebElement>;
  /** All elements with this test id that are there now. */
  all(id: string): Promise<WebElement[]>;
  click(id: string): Promise<void>;
  /** Replaces what a field holds. */
  fill(id: string, text: string): Promise<void>;
  text(id: string): Promise<string>;
  /** Waits until the test id's text fits. */
  sees(id: string, pattern: RegExp): Promise<string>;
  /** Waits until what is to be drawn is drawn and the page has nothing to do. */
  settled(): Promise<void>;
  /** Leaves the page and clears what the browser stored for it. */
  forget(): Promise<void>;
  /** Opens the page as a new visitor would: nothing is stored. */
  fresh(): Promise<void>;
  /** Presses keys where the focus is. */
  press(...keys: string[]): Promise<void>;
  /** Writes a line on the say line and enters it; `write` waits until it is written. */
  say(line: string): Promise<void>;
  write(line: string): Promise<void>;
  /** Waits for the crossing, overrules by name whatever stands in the way, and tries the draft or a step of it. */
  tries(what?: string): Promise<void>;
  /** Opens files of the given texts as a new site. */
  open(files: Readonly<Record<string, string>>): Promise<void>;
  /** Opens files that are there as a new site. */
  openPaths(...paths: readonly string[]): Promise<void>;
  /** Holds Control while pressing a key. */
  control(key: string): Promise<void>;
  shot(file: string): Promise<void>;
  /** What the server has printed since it was started last, and its process. */
  printed(): string;
  serverPid(): number;
  /** Stops a server of its own, and starts it again at the same place. */
  stopServer(): Promise<void>;
  startServer(): Promise<void>;
  /** Moves the page's clock on, and that of every page opened afterwards: nobody waits for a trial to be over. */
  later(seconds: number): Promise<void>;
  close(): Promise<void>;
  /** Ends the browser as a crash would, from one moment to the next, and the server; the profile stays. */
  crash(): Promise<void>;
}

/** All texts that the database holds, asked by a connection of its own. */
export const kept = (page: Page): Promise<string[]> =>
  page.driver.executeAsyncScript<string[]>(`
    const done = arguments[arguments.length - 1];
    const request = indexedDB.open('jolly-gate');
    request.onerror = () => done([]);
    request.onsuccess = () => {
      const all = request.result.transaction('sites').objectStore('sites').getAll();
      all.onsuccess = () => {
        request.result.close();
        done(all.result.flatMap((site) => site.files.map((file) => file.text)));
      };
    };
  `);

/** The processes of the browser that works in this profile. */
function browsersIn(profile: string): number[] {
  return readdirSync('/proc')
    .filter((entry) => /^\d+$/.test(entry))
    .filter((pid) => {
      try {
        const words = readFileSync(`/proc/${pid}/cmdline`, 'utf8').split('\0');
        return words.includes(`--user-data-dir=${profile}`);
      } catch {
        return false; // It ended meanwhile.
      }
    })
    .map(Number);
}

/** How a page is opened. */
export interface Opening {
  /** Categories that Chromium shall trace. */
  readonly traced?: string;
  /** A profile that was there before. */
  readonly profile?: string;
  /** Words for a server of its own. Without them, the one that `verify` started for all (SERVED_AT) is used, if any. */
  readonly serving?: readonly string[];
}

/** Opens a browser on the application. */
export async function openPage({
  traced,
  profile = mkdtempSync(join(tmpdir(), 'gate-profile-')),
  serving,
}: Opening = {}): Promise<Page> {
  const shared = serving ? undefined : process.env.SERVED_AT;
  let server = shared === undefined ? await serve(serving) : undefined;
  const own = () => {
    if (!server) throw new Error('this server is shared: open the page with a server of its own');
    return server;
  };
  const origin = shared ?? own().origin;
  const ended = async () => {
    const gone = new Promise((resolve) => own().child.once('close', resolve));
    own().child.kill();
    await gone;
  };
  const downloads = mkdtempSync(join(tmpdir(), 'gate-downloads-'));
  const options = new Options();
  options.setChromeBinaryPath(process.env.CHROMIUM ?? '/usr/bin/chromium');
  options.addArguments(
    '--headless=new',
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
    '--disable-features=BackForwardCache',
    '--disable-dev-shm-usage',
    '--force-prefers-reduced-motion',
    `--user-data-dir=${profile}`,
    '--window-size=1280,800',
  );
  options.setUserPreferences({
    'download.default_directory': downloads,
    'download.prompt_for_download': false,
    // A site is several files; a person is asked once whether that is meant.
    'profile.default_content_setting_values.automatic_downloads': 1,
  });
  if (traced !== undefined) {
    // The types ask for an option that the driver has long refused.
    const prefs = { traceCategories: traced, enableNetwork: false, enablePage: false };
    options.setPerfLoggingPrefs(prefs as Parameters<Options['setPerfLoggingPrefs']>[0]);
    const wanted = new logging.Preferences();
    wanted.setLevel(logging.Type.PERFORMANCE, logging.Level.ALL);
    options.setLoggingPrefs(wanted);
  }
  const driver = await new Builder()
    .forBrowser('chrome')
    .setChromeOptions(options)
    .setChromeService(new ServiceBuilder(process.env.CHROMEDRIVER ?? '/usr/bin/chromedriver'))
    .build();
  await driver.manage().setTimeouts({ script: PATIENCE, pageLoad: PATIENCE });
  const devtools = driver as unknown as { sendDevToolsCommand(name: string, args: object): Promise<void> };
  await devtools.sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
    width: 1280,
    height: 800,
    deviceScaleFactor: 1,
    mobile: false,
  });
  const forget = async () => {
    // From a page that holds nothing, and by the browser itself: a page that is still on its way out keeps
    // its database open, and would have a script wait for it.
    await driver.get('about:blank');
    await devtools.sendDevToolsCommand('Storage.clearDataForOrigin', { origin, storageTypes: 'all' });
  };
  const find = (id: string) => By.css(`[data-testid="${id}"]`);
  const get = async (id: string) => {
    const element = await driver.wait(until.elementLocated(find(id)), PATIENCE, `no ${id}`);
    await driver.wait(until.elementIsVisible(element), PATIENCE, `${id} is hidden`);
    return element;
  };
  const patiently = async <T>(act: () => Promise<T>): Promise<T> => {
    // A view may be drawn anew between finding and touching an element.
    for (let i = 0; ; i++)
      try {
        return await act();
      } catch (error) {
        const stale =
          error instanceof Error && /Stale|not interactable|intercepted/i.test(error.name + error.message);
        if (!stale || i > 10) throw error;
        await driver.sleep(100);
      }
  };
  const all = (id: string) => driver.findElements(find(id));
  const press = (...keys: string[]) =>
    driver
      .actions()
      .sendKeys(...keys)
      .perform();
  const openPaths = async (...paths: readonly string[]) => {
    await (await driver.findElement(find('open-files'))).sendKeys(paths.map((p) => resolve(p)).join('\n'));
    await (await get('open-new')).click();
  };
  const fill = (id: string, text: string) =>
    patiently(async () => {
      const element = await get(id);
      await element.click();
      await element.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.BACK_SPACE);
      await element.sendKeys(text);
    });
  const say = async (line: string) => {
    await driver.executeScript('document.activeElement?.blur()');
    await press('/');
    await fill('say', line);
    await press(Key.ENTER);
  };
  return {
    driver,
    origin,
    downloads,
    get,
    all,
    fill,
    press,
    say,
    write: async (line) => {
      await say(line);
      await driver.wait(async () => (await all('say')).length === 0, PATIENCE, `not written: ${line}`);
    },
    tries: async (what = 'try') => {
      await driver.wait(until.elementLocated(CALM), PATIENCE, 'no crossing is found');
      for (const box of await all('overrule')) if (!(await box.isSelected())) await box.click();
      const button = await get(what);
      await driver.wait(until.elementIsEnabled(button), PATIENCE, 'it cannot be tried');
      await button.click();
    },
    open: (files) =>
      openPaths(
        ...Object.entries(files).map(([name, text]) => {
          const path = join(downloads, name);
          writeFileSync(path, text);
          return path;
        }),
      ),
    openPaths,
    click: (id) =>
      patiently(async () => {
        const element = await get(id);
        await driver.wait(until.elementIsEnabled(element), PATIENCE, `${id} is not enabled`);
        await element.click();
      }),
    text: (id) => patiently(async () => (await get(id)).getText()),
    sees: async (id, pattern) => {
      let last = '';
      await driver
        .wait(
          async () => {
            last = await patiently(async () => (await get(id)).getText());
            return pattern.test(last);
          },
          PATIENCE,
          `${id} never said ${pattern}`,
        )
        .catch((error: Error) => {
          throw new Error(`${error.message}; it says: ${last}`);
        });
      return last;
    },
    settled: () =>
      driver.executeAsyncScript<void>(
        'const done = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(() => requestIdleCallback(() => done())));',
      ),
    forget,
    fresh: async () => {
      await forget();
      await driver.get(origin);
      await get('box-state');
    },
    later: async (seconds) => {
      const source = (clock: string) =>
        `{ const was = ${clock}; ${clock} = () => was.call(performance) + ${seconds * 1000}; }`;
      await devtools.sendDevToolsCommand('Page.addScriptToEvaluateOnNewDocument', {
        source: source('Date.now'),
      });
      // A page reads the time once, and from then on by the clock that never jumps.
      await driver.executeScript(source('performance.now'));
    },
    control: (key) => driver.actions().keyDown(Key.CONTROL).sendKeys(key).keyUp(Key.CONTROL).perform(),
    shot: async (file) => writeFileSync(file, await driver.takeScreenshot(), 'base64'),
    crash: async () => {
      for (const pid of browsersIn(profile)) process.kill(pid, 'SIGKILL');
      await driver.quit().catch(() => undefined);
      server?.child.kill();
      rmSync(downloads, { recursive: true, force: true });
    },
    printed: () => own().printed(),
    serverPid: () => own().child.pid!,
    stopServer: ended,
    startServer: async () => void (server = await serve(serving, Number(new URL(origin).port))),
    close: async () => {
      await driver.quit();
      if (server?.child.exitCode === null) await ended();
      rmSync(profile, { recursive: true, force: true });
      rmSync(downloads, { recursive: true, force: true });
    },
  };
}
