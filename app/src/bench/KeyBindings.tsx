import { useHotkeys } from 'react-hotkeys-hook';
import { useBench } from '../store/bench.ts';
import { commands, runCommand, type Command } from './commands.ts';

/** Keys act while a view has the focus (or nothing has); those of dialogs and fields stay theirs. */
export function KeyBindings() {
  return (
    <>
      {commands
        .filter((command) => command.keys)
        .map((command) => (
          <Binding key={command.id} command={command} />
        ))}
    </>
  );
}

/** A field in which nothing is being typed: a number that holds already, a switch. */
const isSettled = (field: Element | null) => !(field instanceof HTMLInputElement || field instanceof HTMLTextAreaElement) || field.dataset.settled === 'yes';

function Binding({ command }: { command: Command }) {
  useHotkeys(
    command.keys!,
    (event) => {
      const active = document.activeElement;
      if (useBench.getState().dialog || active?.closest('[role=dialog], [role=menu], [role=listbox]')) return;
      if (command.inFields === 'settled' && !isSettled(active)) return;
      event.preventDefault();
      runCommand(command.id);
    },
    { useKey: !command.byCode, enableOnFormTags: command.inFields !== undefined && command.inFields !== false, enableOnContentEditable: false },
  );
  return null;
}
