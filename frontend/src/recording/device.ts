/** What a recording needs of this device, and whether there is enough of it. */

export interface DeviceState {
  /** Bytes that the browser still gives us; unknown in some engines. */
  free: number | null;
  /** 0 to 1; unknown in some engines. */
  battery: number | null;
  charging: boolean;
}

/** Ten minutes of samples as they are kept, and as much again for the file that is made of them. */
const ENOUGH_BYTES = 2 * 10 * 60 * 48_000 * 4;
const LOW_BATTERY = 0.1;

/** Said in time, in words for a child; nothing where all is well or nothing is known. */
export function deviceHints({ free, battery, charging }: DeviceState): string[] {
  const hints = [];
  if (free !== null && free < ENOUGH_BYTES)
    hints.push("This device is nearly full. Stay on the page after playing, until your go has arrived.");
  if (battery !== null && battery <= LOW_BATTERY && !charging)
    hints.push("The battery is nearly empty. Plug this device in before you play.");
  return hints;
}

interface BatteryManager {
  level: number;
  charging: boolean;
}

export async function deviceState(): Promise<DeviceState> {
  const estimate = await navigator.storage?.estimate?.();
  // Battery Status API (W3C): not in every engine.
  const battery = await (navigator as { getBattery?: () => Promise<BatteryManager> }).getBattery?.();
  return {
    free: estimate?.quota === undefined ? null : estimate.quota - (estimate.usage ?? 0),
    battery: battery?.level ?? null,
    charging: battery?.charging ?? false,
  };
}

/** Asks the browser not to clear what we keep; it may say no, and nothing hangs on it. */
export async function askToKeep(): Promise<void> {
  if (!(await navigator.storage?.persisted?.())) await navigator.storage?.persist?.();
}
