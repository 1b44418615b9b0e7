import { Autocomplete, Box, Dialog, TextField, Typography } from '@mui/material';
import { useRef } from 'react';
import { keysOf, useKeys } from '../keys/keyTable.ts';
import { commandsFor, type Command } from './commands/index.ts';

interface FindDialogProps {
  /** what was typed so far */
  text: string;
  onText: (text: string) => void;
  onTake: (command: Command | undefined) => void;
  onClose: () => void;
}

/** The dialog of the command search. */
export default function FindDialog({ text, onText, onTake: take, onClose: close }: FindDialogProps) {
  const own = useKeys((s) => s.own);
  const marked = useRef<Command | null>(null);
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs" aria-label="Find a command" sx={{ '& .MuiDialog-container': { alignItems: 'flex-start' } }}>
      <Box sx={{ p: 1.5 }}>
        <Autocomplete<Command>
          open
          autoHighlight
          options={commandsFor('')}
          inputValue={text}
          onInputChange={(_, value, reason) => (reason === 'input' || reason === 'clear') && onText(value)}
          getOptionLabel={(command) => command.label}
          filterOptions={(_, { inputValue }) => commandsFor(inputValue)}
          onHighlightChange={(_, command) => (marked.current = command)}
          onChange={(_, command) => take(command ?? undefined)}
          onKeyDown={(event) => {
            if (event.key === 'Escape') close();
            // the first of the list may not be marked yet
            if (event.key === 'Enter' && !(marked.current && commandsFor(text).includes(marked.current))) take(commandsFor(text)[0]);
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
