import { useHotkeys } from 'react-hotkeys-hook';
import { hotkeyOf, keysOf, useKeys } from '../keys/keyTable.ts';
import { useBench } from '../store/bench.ts';
import { commands, runCommand, type Command } from './commands/index.ts';

/** Keys act while a view has the focus (or nothing has); those of dialogs and fields stay theirs. */
export function KeyBindings() {
  const own = useKeys((s) => s.own);
  return <>{commands.flatMap((command) => keysOf(command.id, own).map((key) => <Binding key={`${command.id} ${key}`} command={command} hotkey={key} />))}</>;
}

/** A field in which nothing is being typed: a number that holds already, a switch. */
const isSettled = (field: Element | null) => !(field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement) || field.dataset.settled === 'yes';

function Binding({ command, hotkey }: { command: Command; hotkey: string }) {
  const { keys, byCode } = hotkeyOf(hotkey);
  useHotkeys(
    keys,
    (event) => {
      const active = document.activeElement;
      if (useBench.getState().dialog || active?.closest('[role=dialog], [role=menu], [role=listbox]')) return;
      // arrows, Space and Escape move what is dragged by keys
      if (active?.closest('[aria-roledescription]')) return;
      if (command.inViews && active && active !== document.body && active.id !== 'views') return;
      if (command.inFields === 'settled' && !isSettled(active)) return;
      event.preventDefault();
      runCommand(command.id);
    },
    { useKey: !byCode, enableOnFormTags: command.inFields !== undefined && command.inFields !== false, enableOnContentEditable: false },
  );
  return null;
}
