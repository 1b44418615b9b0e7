import EyeIcon from '@mui/icons-material/VisibilityOutlined';
import { ToggleButton, Tooltip } from '@mui/material';
import { show, useShown } from '../../../store/shown.ts';
import { useBench } from '../../../store/bench.ts';

/** Shows a layer, or one of its masks, without the others on model and sheet; nothing of the job changes. */
export function AloneButton({ layer, mask }: { layer: string; mask: number | null }) {
  const isOn = useShown(({ alone }) => alone?.layer === layer && alone.mask === mask);
  const what = mask === null ? 'this layer' : 'this mask';
  return (
    <Tooltip title={isOn ? 'Show everything again' : `Show ${what} alone${mask === null ? '' : ': white where the layer is seen'}`}>
      <ToggleButton
        value="alone"
        size="small"
        selected={isOn}
        aria-label={`Show ${what} alone`}
        onChange={() => {
          show({ alone: isOn ? null : { layer, mask } });
          useBench.getState().set({ overlay: 'picture' });
        }}
        sx={{ p: 0.25 }}
      >
        <EyeIcon sx={{ fontSize: 17 }} />
      </ToggleButton>
    </Tooltip>
  );
}
