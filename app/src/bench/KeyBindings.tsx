import { useHotkeys } from 'react-hotkeys-hook';
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

function Binding({ command }: { command: Command }) {
  useHotkeys(
    command.keys!,
    (event) => {
      const active = document.activeElement;
      if (active?.closest('[role=dialog], [role=menu], [role=listbox]')) return;
      event.preventDefault();
      runCommand(command.id);
    },
    { useKey: !command.byCode, enableOnFormTags: command.inFields ?? false, enableOnContentEditable: false },
  );
  return null;
}
