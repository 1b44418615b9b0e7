import { Box, ButtonBase, Paper, Typography } from '@mui/material';
import ExpandIcon from '@mui/icons-material/ExpandMore';
import { useId } from 'react';
import { usePreferences } from '../../store/preferences.ts';

interface CardProps {
  title?: string;
  /** It can be folded away by its title, and stays so; `closed`: it is at first. */
  folds?: 'open' | 'closed';
  children: React.ReactNode;
}

const column = { display: 'flex', flexDirection: 'column', gap: 1.25 };

/** One card of a station's panel. */
export function Card({ title, folds, children }: CardProps) {
  if (title && folds) return <FoldingCard title={title} folds={folds} children={children} />;
  return (
    <Paper variant="outlined" sx={{ p: 1.5, mb: 1.25 }}>
      {title && (
        <Typography variant="h3" component="h2" sx={{ mb: 1 }}>
          {title}
        </Typography>
      )}
      <Box sx={column}>{children}</Box>
    </Paper>
  );
}

function FoldingCard({ title, folds, children }: Required<CardProps>) {
  const isOpen = usePreferences((s) => s.folds[title] ?? folds === 'open');
  const setFold = usePreferences((s) => s.setFold);
  const body = useId();
  return (
    <Paper variant="outlined" sx={{ mb: 1.25 }}>
      <Typography variant="h3" component="h2">
        <ButtonBase
          aria-expanded={isOpen}
          aria-controls={body}
          onClick={() => setFold(title, !isOpen)}
          sx={{
            width: '100%',
            font: 'inherit',
            justifyContent: 'space-between',
            px: 1.5,
            py: 1,
            borderRadius: 1,
            '&.Mui-focusVisible': { outline: 2, outlineColor: 'primary.main', outlineOffset: -2 },
          }}
        >
          {title}
          <ExpandIcon fontSize="small" sx={{ transform: isOpen ? 'rotate(180deg)' : 'none' }} />
        </ButtonBase>
      </Typography>
      <Box id={body} hidden={!isOpen} sx={{ px: 1.5, pb: 1.5, ...column, ...(isOpen ? {} : { display: 'none' }) }}>
        {isOpen && children}
      </Box>
    </Paper>
  );
}
