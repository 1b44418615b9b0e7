import { create } from 'zustand';
import { persist } from 'zustand/middleware';

/*
 * Which keys run which commands, in one place. A key is written as it is shown: "X", "Shift+X", "Ctrl+Enter". Letters go by what is printed on the key,
 * everything else by where the key is.
 */

export const defaultKeys: Readonly<Record<string, readonly string[]>> = {
  main: ['Ctrl+Enter'],
  cut: ['X'],
  uncut: ['Shift+X'],
  pen: ['E'],
  join: ['J'],
  pin: ['K'],
  undo: ['Ctrl+Z'],
  redo: ['Ctrl+Shift+Z', 'Ctrl+Y'],
  parts: ['1'],
  islands: ['2'],
  faces: ['3'],
  edges: ['4'],
  points: ['5'],
  'tool-move': ['D'],
  'tool-turn': ['T'],
  'tool-size': ['S'],
  'tool-push': ['R'],
  'tool-grain': ['Shift+G'],
  straighten: ['L'],
  'quarter-left': [','],
  'quarter-right': ['.'],
  'nudge-left': ['Left'],
  'nudge-right': ['Right'],
  'nudge-up': ['Up'],
  'nudge-down': ['Down'],
  'nudge-left-10': ['Shift+Left'],
  'nudge-right-10': ['Shift+Right'],
  'nudge-up-10': ['Shift+Up'],
  'nudge-down-10': ['Shift+Down'],
  'walk-left': ['Alt+Left'],
  'walk-right': ['Alt+Right'],
  'walk-up': ['Alt+Up'],
  'walk-down': ['Alt+Down'],
  'walk-next': ['N'],
  'walk-before': ['Shift+N'],
  'take-walked': ['Space'],
  'add-walked': ['Shift+Space'],
  'select-all': ['Ctrl+A'],
  'select-invert': ['Ctrl+I'],
  'select-grow': ['='],
  'select-shrink': ['-'],
  'brush-less': ['['],
  'brush-more': [']'],
  none: ['Esc'],
  hide: ['H'],
  only: ['Shift+H'],
  show: ['A'],
  outline: ['W'],
  far: ['B'],
  frame: ['F'],
  overlay: ['O'],
  grid: ['G'],
  pinned: ['P'],
  'station-intake': ['Shift+1'],
  'station-jigs': ['Shift+2'],
  'station-seams': ['Shift+3'],
  'station-shape': ['Shift+4'],
  'station-pack': ['Shift+5'],
  'station-images': ['Shift+6'],
  'station-check': ['Shift+7'],
  'station-deliver': ['Shift+8'],
  'station-next': ['Page Down'],
  'station-before': ['Page Up'],
  archive: ['Ctrl+Shift+S'],
  'keep-version': ['Ctrl+S'],
  find: ['Ctrl+K'],
  keys: ['?'],
};

interface OwnKeys {
  /** Commands whose keys were changed; no key at all is an empty list. */
  own: Record<string, readonly string[]>;
  /** Gives a command a key; a command that had it goes without. */
  give(id: string, key: string): void;
  takeOff(id: string): void;
  reset(): void;
}

export const useKeys = create<OwnKeys>()(
  persist(
    (set) => ({
      own: {},
      give: (id, key) =>
        set(({ own }) => {
          const next = { ...own, [id]: [key] };
          for (const [other, keys] of Object.entries({ ...defaultKeys, ...own }))
            if (other !== id && keys.includes(key)) next[other] = keys.filter((one) => one !== key);
          return { own: next };
        }),
      takeOff: (id) => set(({ own }) => ({ own: { ...own, [id]: [] } })),
      reset: () => set({ own: {} }),
    }),
    { name: 'jig-peel-keys', partialize: ({ own }) => ({ own }) },
  ),
);

/** The keys of a command now. */
export const keysOf = (id: string, own = useKeys.getState().own): readonly string[] => own[id] ?? defaultKeys[id] ?? [];

/** The key that is shown beside a command, or nothing. */
export const useKeyOf = (id: string): string | undefined => useKeys((s) => keysOf(id, s.own)[0]);

/** Words with the key of a command behind them, as long as it has one. */
export function useWithKey(words: string, id: string): string {
  const key = useKeyOf(id);
  return key ? `${words} (${key})` : words;
}

/** Which command has a key now. */
export const commandWith = (key: string, own = useKeys.getState().own): string | undefined =>
  Object.keys({ ...defaultKeys, ...own }).find((id) => keysOf(id, own).includes(key));

/** Names of keys for react-hotkeys-hook, where they are not the shown ones. */
const codes: Record<string, string[]> = {
  '=': ['equal', 'numpadadd'],
  '-': ['minus', 'numpadsubtract'],
  '[': ['bracketleft'],
  ']': ['bracketright'],
  ',': ['comma'],
  '.': ['period'],
  '/': ['slash'],
  ';': ['semicolon'],
  '\\': ['backslash'],
  '?': ['shift+slash', '?'],
  Esc: ['escape'],
  'Page Down': ['pagedown'],
  'Page Up': ['pageup'],
  Left: ['arrowleft'],
  Right: ['arrowright'],
  Up: ['arrowup'],
  Down: ['arrowdown'],
};

/** How react-hotkeys-hook takes a key, and whether it goes by the key's place. */
export function hotkeyOf(key: string): { keys: string[]; byCode: boolean } {
  const parts = key === '+' ? ['+'] : key.split('+');
  const last = parts.at(-1)!;
  const held = parts.slice(0, -1).map((one) => (one === 'Ctrl' ? 'mod' : one.toLowerCase()));
  const names = codes[last] ?? [last.toLowerCase()];
  return { keys: names.map((name) => [...held, name].join('+')), byCode: !/^[A-Z]$/.test(last) };
}

const shownCodes: Record<string, string> = {
  Equal: '=',
  Minus: '-',
  BracketLeft: '[',
  BracketRight: ']',
  Comma: ',',
  Period: '.',
  Slash: '/',
  Semicolon: ';',
  Backslash: '\\',
  Escape: 'Esc',
  PageDown: 'Page Down',
  PageUp: 'Page Up',
  ArrowLeft: 'Left',
  ArrowRight: 'Right',
  ArrowUp: 'Up',
  ArrowDown: 'Down',
  Enter: 'Enter',
  Space: 'Space',
  Home: 'Home',
  End: 'End',
  Insert: 'Insert',
};

/** A pressed key as it is written here; null for keys that cannot be given away. */
export function keyFromEvent({
  key,
  code,
  ctrlKey,
  metaKey,
  shiftKey,
  altKey,
}: Pick<KeyboardEvent, 'key' | 'code' | 'ctrlKey' | 'metaKey' | 'shiftKey' | 'altKey'>): string | null {
  const letter = /^[a-z]$/i.test(key) ? key.toUpperCase() : null;
  const digit = /^Digit(\d)$/.exec(code)?.[1];
  const name = letter ?? digit ?? shownCodes[code] ?? (/^F\d{1,2}$/.test(code) ? code : null);
  if (name === null) return null;
  if (name === '/' && shiftKey && !ctrlKey && !metaKey && !altKey) return '?';
  return [ctrlKey || metaKey ? 'Ctrl' : '', altKey ? 'Alt' : '', shiftKey ? 'Shift' : '', name].filter(Boolean).join('+');
}
