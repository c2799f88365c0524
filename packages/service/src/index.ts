export { type Service, startService } from './main/start.js';
export { Driver } from './platform/database/driver.js';
export { Bus } from './platform/events.js';
export { type Settings, type SettingsInput, settingsSchema } from './platform/settings.js';
export { VERSION } from './version.js';
