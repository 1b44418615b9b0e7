import { create } from 'zustand';

const key = 'jig-peel swatches';
const most = 24;
const isColour = (one: unknown): one is string => typeof one === 'string' && /^#[0-9a-f]{6}$/.test(one);

/** What this browser keeps; none where that is damaged or cannot be read. */
function kept(): string[] {
  try {
    const list: unknown = JSON.parse(localStorage.getItem(key) ?? '[]');
    return Array.isArray(list) && list.every(isColour) ? list.slice(0, most) : [];
  } catch {
    return [];
  }
}

/** Colours kept for other layers and jobs, the newest first. */
export const useSwatches = create<{ colours: readonly string[] }>(() => ({ colours: kept() }));

function put(colours: readonly string[]): void {
  useSwatches.setState({ colours });
  try {
    localStorage.setItem(key, JSON.stringify(colours));
  } catch {
    // without storage they last as long as the page
  }
}

/** Keeps a colour; the oldest goes where there are many. */
export function keepSwatch(colour: string): void {
  const own = colour.toLowerCase();
  const others = useSwatches.getState().colours.filter((one) => one !== own);
  put([own, ...others].slice(0, most));
}

export function forgetSwatch(colour: string): void {
  put(useSwatches.getState().colours.filter((one) => one !== colour));
}

interface EyeDropper {
  open(): Promise<{ sRGBHex: string }>;
}

/** Whether the browser can take a colour from anywhere on the screen. */
export const canPick = (): boolean => 'EyeDropper' in window;

/** A colour pressed on anywhere on the screen, a picture in the views or beside the browser; null where that was left by Escape. */
export async function pickColour(): Promise<string | null> {
  try {
    return (await new (window as unknown as { EyeDropper: new () => EyeDropper }).EyeDropper().open()).sRGBHex.toLowerCase();
  } catch {
    return null;
  }
}
