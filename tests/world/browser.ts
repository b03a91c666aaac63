import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Builder, By, error, Key, logging, until, type WebDriver, type WebElement } from 'selenium-webdriver';
import chrome from 'selenium-webdriver/chrome.js';

export { By, Key };

/** How long a state is waited for before it is told as missing: long enough for a machine whose cores others keep busy. */
const PATIENCE = 60_000;

/** One headless browser with a fresh profile, and the few things a person does in it. */
export class Browser {
	private constructor(
		readonly driver: WebDriver,
		private readonly profile: string
	) {}

	static async open({ width = 1280, height = 800, scale = 1 } = {}): Promise<Browser> {
		const profile = mkdtempSync(join(tmpdir(), 'purse-profile-'));
		const options = new chrome.Options();
		options.addArguments(
			'--headless',
			'--no-sandbox',
			'--disable-gpu',
			'--disable-quic',
			'--no-first-run',
			'--disable-background-networking',
			'--disable-component-update',
			'--disable-sync',
			'--disable-dev-shm-usage',
			'--lang=en-GB',
			'--hide-scrollbars',
			`--force-device-scale-factor=${scale}`,
			`--window-size=${width},${height}`,
			`--user-data-dir=${profile}`
		);
		options.setUserPreferences({ intl: { accept_languages: 'en-GB,en' } });
		options.setChromeBinaryPath(process.env.CHROMIUM ?? '/usr/bin/chromium');
		const prefs = new logging.Preferences();
		prefs.setLevel(logging.Type.BROWSER, logging.Level.ALL);
		options.setLoggingPrefs(prefs);
		const driver = await new Builder()
			.forBrowser('chrome')
			.setChromeOptions(options)
			.setChromeService(new chrome.ServiceBuilder(process.env.CHROMEDRIVER ?? '/usr/bin/chromedriver'))
			.build();
		const browser = new Browser(driver, profile);
		await browser.size(width, height);
		return browser;
	}

	/** Sets the size of the page itself, whatever the window around it takes. */
	async size(width: number, height: number): Promise<void> {
		await (
			this.driver as unknown as { sendDevToolsCommand(name: string, parameters: object): Promise<void> }
		).sendDevToolsCommand('Emulation.setDeviceMetricsOverride', {
			width,
			height,
			deviceScaleFactor: 1,
			mobile: false
		});
	}

	async close(): Promise<void> {
		await this.driver.quit();
		rmSync(this.profile, { recursive: true, force: true });
	}

	/** Opens an address; at the desk, once its keys are heard. */
	async go(address: string): Promise<void> {
		await this.driver.get(address);
		await this.driver.wait(
			async () =>
				this.driver.executeScript<boolean>(
					`return !document.querySelector('.desk') || 'ready' in document.documentElement.dataset`
				),
			PATIENCE,
			`the desk never heard keys at ${address}`
		);
	}
	async path(): Promise<string> {
		const url = new URL(await this.driver.getCurrentUrl());
		return url.pathname;
	}
	find(css: string): Promise<WebElement> {
		return this.driver.wait(until.elementLocated(By.css(css)), PATIENCE, `no ${css}`);
	}
	/** The first visible element of a kind that carries a text, or is named by it. */
	async named(kind: string, text: string): Promise<WebElement> {
		return this.driver.wait(
			async () => {
				for (const one of await this.driver.findElements(By.css(kind))) {
					const [shown, name] = await Promise.all([
						one.getText().catch(() => ''),
						one.getAttribute('aria-label').catch(() => '')
					]);
					if ((shown.trim().split('\n')[0] === text || name === text) && (await one.isDisplayed().catch(() => false)))
						return one;
				}
				return false as unknown as WebElement;
			},
			PATIENCE,
			`no ${kind} called “${text}”`
		);
	}
	async press(text: string, kind = 'button, a'): Promise<void> {
		await this.onceMore(async () => {
			const element = await this.named(kind, text);
			await this.driver.executeScript('arguments[0].scrollIntoView({block: "center"})', element);
			await element.click();
		});
	}
	/** Does something with what is found; where the page put another in its place in between, it is found once more. */
	private async onceMore(act: () => Promise<void>): Promise<void> {
		try {
			await act();
		} catch (trouble) {
			if (!(trouble instanceof error.StaleElementReferenceError)) throw trouble;
			await act();
		}
	}
	/** The box that belongs to a label, or is named by it. */
	async box(label: string): Promise<WebElement> {
		return this.driver.wait(
			async () =>
				(await this.driver.executeScript(
					`const wanted = arguments[0];
					for (const label of document.querySelectorAll('label')) {
						const legend = label.querySelector('.legend, .sub, span') ?? label;
						if (legend.textContent.trim() !== wanted && label.textContent.trim() !== wanted) continue;
						const box = label.htmlFor ? document.getElementById(label.htmlFor) : label.querySelector('input, select, textarea');
						if (box) return box;
					}
					return document.querySelector('[aria-label="' + CSS.escape(wanted) + '"]:is(input, select, textarea)');`,
					label
				)) as WebElement,
			PATIENCE,
			`no box called “${label}”`
		);
	}
	fill(label: string, text: string): Promise<void> {
		return this.onceMore(() => this.fillOnce(label, text));
	}
	private async fillOnce(label: string, text: string): Promise<void> {
		const box = await this.box(label);
		await this.driver.executeScript('arguments[0].scrollIntoView({block: "center"})', box);
		if ((await box.getTagName()) === 'select') {
			await this.driver.executeScript(
				`const [box, text] = arguments; const option = [...box.options].find((one) => one.textContent.trim() === text || one.value === text);
				if (!option) throw new Error('no option ' + text); box.value = option.value; box.dispatchEvent(new Event('input', { bubbles: true })); box.dispatchEvent(new Event('change', { bubbles: true }));`,
				box,
				text
			);
			return;
		}
		await box.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.DELETE, text);
	}
	async tick(label: string, on = true): Promise<void> {
		const box = await this.box(label);
		if ((await box.isSelected()) !== on) await box.click();
	}
	/** Waits for a text to stand on the page, and gives the whole text of it. */
	async sees(text: string | RegExp, css = 'body'): Promise<string> {
		let last = '';
		return this.driver.wait(
			async () => {
				last = await this.driver
					.findElement(By.css(css))
					.getText()
					.catch(() => '');
				return (typeof text === 'string' ? last.includes(text) : text.test(last)) ? last : false;
			},
			PATIENCE,
			`never saw ${String(text)}`
		) as Promise<string>;
	}
	/** Waits until a text is not there any more, on a page that is. */
	async seesNot(text: string, css = 'main'): Promise<void> {
		await this.driver.wait(
			async () => {
				const shown = await this.driver
					.findElement(By.css(css))
					.getText()
					.catch(() => '');
				return shown !== '' && !shown.includes(text);
			},
			PATIENCE,
			`still saw ${text}`
		);
	}
	async text(css = 'body'): Promise<string> {
		return (await this.find(css)).getText();
	}
	keys(...keys: string[]): Promise<void> {
		return this.driver
			.actions()
			.sendKeys(...keys)
			.perform();
	}
	async chord(modifier: string, key: string): Promise<void> {
		await this.driver.actions().keyDown(modifier).sendKeys(key).keyUp(modifier).perform();
	}
	async picture(): Promise<Buffer> {
		return Buffer.from(await this.driver.takeScreenshot(), 'base64');
	}
	/** What the console complained of since the last call. A refused form is an answer, not a fault of the page. */
	async complaints(): Promise<string[]> {
		const entries = await this.driver.manage().logs().get(logging.Type.BROWSER);
		return entries
			.filter((entry) => entry.level.value >= logging.Level.WARNING.value)
			.map((entry) => entry.message)
			.filter((message) => !/the server responded with a status of 4\d\d|status of 502/.test(message));
	}
}
