import { Alert } from '@mui/material';
import type { ReactNode } from 'react';

/** What went wrong, in words; loaded when something does. */
export default function Trouble({ children, onClose }: { children: ReactNode; onClose?: () => void }) {
  return (
    <Alert severity="error" {...(onClose ? { onClose } : {})} sx={{ mb: 2 }}>
      {children}
    </Alert>
  );
}
