import { Button, Box, Typography } from '@mui/material';
import type { Layer } from '@jig-peel/core';
import type { JobSummary } from '../../../session/messages.ts';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { run } from '../../../worker/client.ts';

interface Use {
  layer: Layer;
  /** Whose layer it is: a part by id, or a material. */
  part: string | null;
  material: string | null;
  owner: string;
}

/** Layers that go by a jig: driven by it, with a mask that moves with it, or covering what it smears. */
export function layersOfJig({ parts, materialLayers }: Pick<JobSummary, 'parts' | 'materialLayers'>, jig: string): Use[] {
  const goesBy = ({ driver, masks, covers }: Layer) =>
    (driver.kind === 'jig' && driver.jig === jig) || covers === jig || masks.some((mask) => mask.kind === 'fade' && mask.jig === jig);
  return [
    ...parts.flatMap(({ id, name, layers }) => (layers ?? []).filter(goesBy).map((layer) => ({ layer, part: id, material: null, owner: name }))),
    ...materialLayers.flatMap(({ material, layers }) => layers.filter(goesBy).map((layer) => ({ layer, part: null, material, owner: material }))),
  ];
}

async function goToLayer({ layer, part, material }: Use): Promise<void> {
  const { summary, goTo } = useBench.getState();
  if (part !== null && part !== summary?.activePart && !(await run('activatePart', { part })).ok) return;
  const { useLayerChoice } = await import('../images/layerWork.ts');
  useLayerChoice.setState({ material, layer: layer.id });
  goTo('images');
}

/** The layers that go by the jig in hand; each leads to its settings. */
export function JigLayers({ jig }: { jig: string }) {
  const summary = useJob('parts', 'materialLayers');
  const uses = layersOfJig(summary, jig);
  if (uses.length === 0) return null;
  return (
    <Box>
      <Typography variant="caption" component="h3" sx={{ m: 0 }}>
        {uses.length === 1 ? 'A layer goes by it' : `${uses.length} layers go by it`}
      </Typography>
      {uses.map((use) => (
        <Button
          key={`${use.part} ${use.material} ${use.layer.id}`}
          size="small"
          sx={{ display: 'block', textAlign: 'left' }}
          onClick={() => void goToLayer(use)}
        >
          {use.layer.name}, {use.owner}
        </Button>
      ))}
    </Box>
  );
}
