import { Autocomplete, Box, Dialog, TextField, Typography } from '@mui/material';
import { keysOf, useKeys } from '../keys/keyTable.ts';
import { commands, runCommand, type Command } from './commands/index.ts';

/** The dialog of the command search. @param text what was typed so far */
export default function FindDialog({ text, onText, onClose: close }: { text: string; onText: (text: string) => void; onClose: () => void }) {
  const own = useKeys((s) => s.own);
  const list = commands.filter((command) => command.id !== 'find');
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs" aria-label="Find a command" sx={{ '& .MuiDialog-container': { alignItems: 'flex-start' } }}>
      <Box sx={{ p: 1.5 }}>
        <Autocomplete<Command>
          open
          autoHighlight
          options={list}
          inputValue={text}
          onInputChange={(_, value, reason) => (reason === 'input' || reason === 'clear') && onText(value)}
          getOptionLabel={(command) => command.label}
          filterOptions={(options, { inputValue }) => {
            const words = inputValue.toLowerCase().split(/\s+/).filter(Boolean);
            return options.filter((command) => words.every((word) => `${command.label} ${command.words ?? ''}`.toLowerCase().includes(word)));
          }}
          onChange={(_, command) => {
            if (!command) return;
            close();
            runCommand(command.id);
          }}
          onKeyDown={(event) => {
            if (event.key === 'Escape') close();
          }}
          noOptionsText="No command of that name"
          renderInput={(params) => <TextField {...params} autoFocus placeholder="Find a command" aria-label="Find a command" />}
          renderOption={(props, command) => {
            const { key, ...rest } = props;
            const [hotkey] = keysOf(command.id, own);
            const why = command.blocked?.() ?? null;
            return (
              <Box component="li" key={key} {...rest} sx={{ display: 'flex', gap: 1 }}>
                <Box sx={{ flex: 1 }}>
                  {command.label}
                  {why && (
                    <Typography variant="caption" color="text.secondary" sx={{ ml: 1 }}>
                      {why}
                    </Typography>
                  )}
                </Box>
                {hotkey && (
                  <Typography variant="figure" color="text.secondary">
                    {hotkey}
                  </Typography>
                )}
              </Box>
            );
          }}
        />
      </Box>
    </Dialog>
  );
}
