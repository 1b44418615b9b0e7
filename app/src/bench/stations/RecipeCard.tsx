import { Alert, Box, Button, Checkbox, IconButton, Link, Tooltip, Typography } from '@mui/material';
import TuneIcon from '@mui/icons-material/Tune';
import UpIcon from '@mui/icons-material/KeyboardArrowUp';
import DownIcon from '@mui/icons-material/KeyboardArrowDown';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { operationFacts, type Field } from 'virtual:operation-facts';
import type { OperationName, ParamsOf } from '@jig-peel/core';
import type { Outcome, RecipeView } from '../../session/messages.ts';
import { useBench } from '../../store/bench.ts';
import { coreApi, notify, outcomeOf, run, step as inTurn } from '../../worker/client.ts';
import { handedRecipe } from '../../routes/handedRecipe.ts';
import { save } from '../deliver.ts';
import { ParamsForm } from '../ParamsForm.tsx';
import { Card } from './Card.tsx';

type Step = RecipeView['recipe']['steps'][number];

/** Parameters that are no more than what a step does anyway, left out of its words. */
const plain = (value: unknown) => value === null || value === undefined || value === '' || value === false || (Array.isArray(value) && value.length === 0);
function wordsOf(params: Step['params']): string {
  return Object.entries(params)
    .filter(([, value]) => !plain(value) && typeof value !== 'object')
    .slice(0, 6)
    .map(([key, value]) => (value === true ? key : `${key} ${String(value)}`))
    .join(', ');
}

/** One step as the command line does it: what follows it is in the recipe. */
const doStep = ({ operation, params }: Step) =>
  inTurn(operation, (write) => coreApi().run(operation as OperationName, params as ParamsOf<OperationName>, write, true) as Promise<Outcome>);

/** Parameters of a step that a form can be made of. */
const fieldsOf = ({ operation }: Step): readonly Field[] => (operationFacts as Partial<Record<string, { fields: readonly Field[] }>>)[operation]?.fields ?? [];

/** The steps done as a recipe: kept as a file, edited as a list, done on other parts; the command line does it on whole folders. */
export function RecipeCard() {
  const [view, setView] = useState<RecipeView | null>(null);
  const [stopped, setStopped] = useState('');
  const [busy, setBusy] = useState(false);
  /** The step whose parameters are being changed. */
  const [edited, setEdited] = useState<number | null>(null);
  const navigate = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  const parts = useBench((s) => s.summary!.parts.length);
  const steps = view?.recipe.steps ?? [];
  const on = steps.filter(({ isOff }) => !isOff).length;

  const take = async (text?: string) => {
    setStopped('');
    const outcome = await outcomeOf(coreApi().recipe(useBench.getState().summary?.name ?? 'Recipe', text));
    notify(outcome, false);
    if (outcome.ok) setView(outcome.report);
  };
  const change = (next: Step[], labels: string[]) => view && setView({ recipe: { ...view.recipe, steps: next }, labels });
  const move = (k: number, by: number) => {
    if (!view) return;
    setEdited(null);
    const swap = <T,>(list: readonly T[]) => list.map((one, i) => (i === k ? list[k + by]! : i === k + by ? list[k]! : one));
    change(swap(steps), swap(view.labels));
  };
  const keep = () => {
    if (!view) return;
    const url = URL.createObjectURL(new Blob([`${JSON.stringify(view.recipe, null, 2)}\n`], { type: 'application/json' }));
    save('recipe.json', url);
    URL.revokeObjectURL(url);
  };
  /** Step after step, each undone by itself; what has nothing to do is passed over, anything else stops it there. */
  const work = async (each: readonly string[]) => {
    if (!view) return;
    setBusy(true);
    setStopped('');
    for (const { step: k, part } of await coreApi().recipeOrder(view.recipe, each)) {
      if (part !== null && useBench.getState().summary?.activePart !== part && !(await run('activatePart', { part })).ok) break;
      const step = view.recipe.steps[k]!;
      let ended = '';
      if (step.asks) ended = `Step ${k + 1}, ${view.labels[k]}, asks for a person: ${step.asks} Leave it out, or do it by hand.`;
      else {
        const outcome = await doStep(step);
        if (!outcome.ok && outcome.code !== 'nothing-to-do') ended = `Stopped at step ${k + 1}, ${view.labels[k]}: ${outcome.sentence}`;
      }
      if (!ended) continue;
      const name = useBench.getState().summary?.parts.find(({ id }) => id === part)?.name;
      setStopped(each.length > 1 && name ? `${name}: ${ended}` : ended);
      break;
    }
    setBusy(false);
  };

  return (
    <Card title="Recipe" folds="closed">
      {!view ? (
        <Typography variant="body2" color="text.secondary">
          The steps of this job as a list that can be done on other parts and other models, here or on the command line for whole folders.
        </Typography>
      ) : (
        <Box component="ol" aria-label="Steps of the recipe" sx={{ m: 0, p: 0, listStyle: 'none' }}>
          {steps.map((step, k) => (
            <Box component="li" key={k} sx={{ display: 'flex', alignItems: 'flex-start', borderTop: 1, borderColor: 'divider', py: 0.25 }}>
              <Checkbox
                size="small"
                sx={{ p: 0.25, mr: 0.5 }}
                checked={!step.isOff}
                slotProps={{ input: { 'aria-label': `Step ${k + 1}: ${view.labels[k]}` } }}
                onChange={(event) =>
                  change(
                    steps.map((one, i) => (i === k ? { ...one, isOff: !event.target.checked } : one)),
                    view.labels,
                  )
                }
              />
              <Box sx={{ flex: 1, minWidth: 0 }}>
                <Typography variant="body2" sx={{ color: step.isOff ? 'text.secondary' : 'text.primary' }}>
                  {k + 1}. {view.labels[k]}
                </Typography>
                <Typography
                  variant="caption"
                  component="div"
                  sx={{ lineHeight: 1.25, overflowWrap: 'anywhere' }}
                  color={step.asks ? 'warning.main' : 'text.secondary'}
                >
                  {step.asks ? `Asks for a person: ${step.asks}` : wordsOf(step.params)}
                </Typography>
              </Box>
              <Tooltip title={fieldsOf(step).length > 0 ? 'Change its numbers' : 'It has no numbers to change'}>
                <span>
                  <IconButton
                    size="small"
                    disabled={fieldsOf(step).length === 0}
                    aria-label={`Change the numbers of step ${k + 1}`}
                    onClick={() => setEdited(edited === k ? null : k)}
                  >
                    <TuneIcon fontSize="small" />
                  </IconButton>
                </span>
              </Tooltip>
              <Tooltip title="Earlier">
                <span>
                  <IconButton size="small" disabled={k === 0} aria-label={`Step ${k + 1} earlier`} onClick={() => move(k, -1)}>
                    <UpIcon fontSize="small" />
                  </IconButton>
                </span>
              </Tooltip>
              <Tooltip title="Later">
                <span>
                  <IconButton size="small" disabled={k === steps.length - 1} aria-label={`Step ${k + 1} later`} onClick={() => move(k, 1)}>
                    <DownIcon fontSize="small" />
                  </IconButton>
                </span>
              </Tooltip>
            </Box>
          ))}
        </Box>
      )}
      {edited !== null && steps[edited] && (
        <Box component="section" aria-label={`Numbers of step ${edited + 1}`} sx={{ border: 1, borderColor: 'primary.main', borderRadius: 1, p: 1 }}>
          <Typography variant="h3">
            {edited + 1}. {view?.labels[edited]}
          </Typography>
          <ParamsForm
            key={edited}
            fields={fieldsOf(steps[edited])}
            first={steps[edited].params}
            label="Change"
            cancel={() => setEdited(null)}
            send={(params) => {
              const names = fieldsOf(steps[edited]!).map(({ name }) => name);
              change(
                steps.map((one, i) =>
                  i === edited
                    ? { ...one, params: { ...Object.fromEntries(Object.entries(one.params).filter(([name]) => !names.includes(name))), ...params } }
                    : one,
                ),
                view!.labels,
              );
              setEdited(null);
            }}
          />
        </Box>
      )}
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
        <Button size="small" variant="outlined" disabled={busy} onClick={() => void take()}>
          Of my steps
        </Button>
        <Button size="small" variant="outlined" disabled={busy} onClick={() => file.current?.click()}>
          From a file
        </Button>
        {view && (
          <>
            <Button size="small" variant="outlined" disabled={busy || on === 0} onClick={() => void work([useBench.getState().summary!.activePart])}>
              Do on this part
            </Button>
            <Button
              size="small"
              variant="outlined"
              disabled={busy || on === 0 || parts < 2}
              onClick={() => void work(useBench.getState().summary!.parts.map(({ id }) => id))}
            >
              On all parts
            </Button>
            <Button size="small" variant="outlined" sx={{ gridColumn: '1 / 3' }} onClick={keep}>
              Keep as a file
            </Button>
            <Typography variant="caption" color="text.secondary" sx={{ gridColumn: '1 / 3' }}>
              For other programs: the{' '}
              <Link href="/recipe.schema.json" download>
                JSON Schema of recipes
              </Link>
            </Typography>
            <Button
              size="small"
              variant="outlined"
              sx={{ gridColumn: '1 / 3' }}
              disabled={on === 0}
              onClick={() => {
                sessionStorage.setItem(handedRecipe, JSON.stringify(view.recipe));
                void navigate('/batches');
              }}
            >
              On many files …
            </Button>
          </>
        )}
        <input
          ref={file}
          type="file"
          accept=".json"
          hidden
          aria-label="Recipe from a file"
          onChange={(event) => {
            const [first] = event.target.files ?? [];
            event.target.value = '';
            if (first) void first.text().then(take);
          }}
        />
      </Box>
      {stopped && (
        <Alert severity="warning" sx={{ py: 0 }}>
          {stopped}
        </Alert>
      )}
    </Card>
  );
}
