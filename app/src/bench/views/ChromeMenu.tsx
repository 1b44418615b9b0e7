import { Box, IconButton, Paper, Popover, Tooltip } from '@mui/material';
import { useState, type ReactNode } from 'react';

interface Props {
  label: string;
  icon: ReactNode;
  /** What it sets is in use. */
  active?: boolean;
  width: number;
  children: ReactNode;
}

/** A button over a view that opens a small card of settings; the keys go back to the views when it closes. */
export function ChromeMenu({ label, icon, active = false, width, children }: Props) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Tooltip title={label} placement="left" disableInteractive>
        <Paper elevation={1} sx={{ borderRadius: 1 }}>
          <IconButton
            aria-label={label}
            aria-haspopup="dialog"
            onClick={(event) => setAnchor(event.currentTarget)}
            sx={{ borderRadius: 1, p: 0.6, ...(active ? { color: 'primary.main' } : {}) }}
          >
            {icon}
          </IconButton>
        </Paper>
      </Tooltip>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => {
          setAnchor(null);
          document.getElementById('views')?.focus({ preventScroll: true });
        }}
        transitionDuration={0}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
        slotProps={{ paper: { sx: { p: 1.5, width }, role: 'dialog', 'aria-label': label } }}
      >
        <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>{children}</Box>
      </Popover>
    </>
  );
}
