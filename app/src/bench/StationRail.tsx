import { Box, ButtonBase, Tooltip, Typography } from '@mui/material';
import CutIcon from '@mui/icons-material/ContentCut';
import InboxIcon from '@mui/icons-material/MoveToInboxOutlined';
import JigIcon from '@mui/icons-material/ViewInArOutlined';
import ImageIcon from '@mui/icons-material/ImageOutlined';
import PackIcon from '@mui/icons-material/DashboardOutlined';
import ShapeIcon from '@mui/icons-material/DesignServicesOutlined';
import CheckIcon from '@mui/icons-material/FactCheckOutlined';
import SendIcon from '@mui/icons-material/LocalShippingOutlined';
import { useBench, type StationName } from '../store/bench.ts';
import { keysOf, useKeys } from '../keys/keyTable.ts';

const stations: { name: StationName; label: string; icon: React.ReactNode; help: string }[] = [
  { name: 'intake', label: 'Intake', icon: <InboxIcon />, help: 'What came in, and what its UVs are like' },
  { name: 'jigs', label: 'Jigs', icon: <JigIcon />, help: 'Placed projections, with measured advice' },
  { name: 'seams', label: 'Seams', icon: <CutIcon />, help: 'Cut and lay flat' },
  { name: 'shape', label: 'Shape', icon: <ShapeIcon />, help: 'Arrange, straighten and stack on the sheet' },
  { name: 'pack', label: 'Pack', icon: <PackIcon />, help: 'Even density, and a place on the sheet for each island' },
  { name: 'images', label: 'Images', icon: <ImageIcon />, help: 'Pictures, layers and masks on the model; baking' },
  { name: 'check', label: 'Check', icon: <CheckIcon />, help: 'Limits, versions, reports' },
  { name: 'deliver', label: 'Deliver', icon: <SendIcon />, help: 'Hand over files that have been read back' },
];

/** The stages of the work down the bench's left edge. */
export function StationRail() {
  const station = useBench((s) => s.station);
  const goTo = useBench((s) => s.goTo);
  const own = useKeys((s) => s.own);
  return (
    <Box
      component="nav"
      aria-label="Stations"
      sx={{
        width: 64,
        flex: 'none',
        display: 'flex',
        flexDirection: 'column',
        py: 1,
        gap: 0.5,
        borderRight: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
      }}
    >
      {stations.map(({ name, label, icon, help }) => {
        const here = name === station;
        return (
          <Tooltip key={name} placement="right" title={[help, keysOf(`station-${name}`, own).map((key) => `(${key})`)[0]].filter(Boolean).join(' ')}>
            <ButtonBase
              aria-current={here ? 'step' : undefined}
              onClick={() => {
                goTo(name);
                document.getElementById('views')?.focus({ preventScroll: true });
              }}
              sx={{
                flexDirection: 'column',
                py: 0.9,
                mx: 0.5,
                borderRadius: 1.5,
                gap: 0.3,
                color: here ? 'primary.contrastText' : 'text.primary',
                bgcolor: here ? 'primary.main' : 'transparent',
                '&:hover': { bgcolor: here ? 'primary.main' : 'action.hover' },
                '& svg': { fontSize: 21 },
              }}
            >
              {icon}
              <Typography sx={{ fontSize: 11.5, fontWeight: 600 }}>{label}</Typography>
            </ButtonBase>
          </Tooltip>
        );
      })}
    </Box>
  );
}
