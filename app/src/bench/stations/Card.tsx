import { Accordion, AccordionDetails, AccordionSummary, Box, Paper, Typography } from '@mui/material';
import ExpandIcon from '@mui/icons-material/ExpandMore';
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
  return (
    <Accordion
      disableGutters
      elevation={0}
      variant="outlined"
      expanded={isOpen}
      onChange={(_, open) => setFold(title, open)}
      slotProps={{ transition: { unmountOnExit: true, timeout: 120 }, heading: { component: 'h2' } }}
      sx={{ mb: 1.25, '&::before': { display: 'none' }, borderRadius: 1 }}
    >
      <AccordionSummary expandIcon={<ExpandIcon fontSize="small" />} sx={{ px: 1.5, minHeight: 38, '& .MuiAccordionSummary-content': { my: 0.75 } }}>
        <Typography variant="h3" component="span">
          {title}
        </Typography>
      </AccordionSummary>
      <AccordionDetails sx={{ px: 1.5, pt: 0.25, pb: 1.5, ...column }}>{children}</AccordionDetails>
    </Accordion>
  );
}
