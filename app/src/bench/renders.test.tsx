// @vitest-environment jsdom
import 'fake-indexeddb/auto';
import { ThemeProvider } from '@mui/material';
import { act, cleanup, render } from '@testing-library/react';
import { Profiler, type ReactNode } from 'react';
import { MemoryRouter } from 'react-router';
import { afterEach, expect, it, vi } from 'vitest';
import { openBench } from '../session/testing.ts';
import { useBench } from '../store/bench.ts';
import { makeTheme } from '../theme/theme.ts';
import { Gauges } from './Gauges.tsx';
import { StationRail } from './StationRail.tsx';
import { DeliverPanel } from './stations/DeliverPanel.tsx';
import { FormCard } from './stations/FormCard.tsx';
import { MeshCard } from './stations/MeshCard.tsx';
import { PartsCard } from './stations/PartsCard.tsx';
import { PictureCard } from './stations/PictureCard.tsx';
import { SeamsPanel } from './stations/SeamsPanel.tsx';
import { UvSetsCard } from './stations/UvSetsCard.tsx';
import { TopBar } from './TopBar.tsx';
import { SelectionBar } from './views/SelectionBar.tsx';
import { ViewsSummary } from './views/ViewsSummary.tsx';

afterEach(cleanup);

it('a click on the sheet renders what shows the selection, and nothing else', async () => {
  // how long ago the last step was kept is counted on each second, also on a busy machine
  vi.useFakeTimers({ toFake: ['setInterval'] });
  const { session, told } = openBench();
  const shown = useBench.getState();
  await session.begin('renders', 'box');
  await session.idle();
  for (const event of told) shown.receive(event);
  useBench.getState().set({ kind: 'faces' });
  const renders = new Map<string, number>();
  const counted = (name: string, what: ReactNode) => (
    <Profiler key={name} id={name} onRender={() => renders.set(name, (renders.get(name) ?? 0) + 1)}>
      {what}
    </Profiler>
  );
  render(
    <ThemeProvider theme={makeTheme('light')}>
      <MemoryRouter>
        {counted('top bar', <TopBar />)}
        {counted('gauges', <Gauges />)}
        {counted('rail', <StationRail />)}
        {counted('parts', <PartsCard />)}
        {counted('picture', <PictureCard />)}
        {counted('mesh', <MeshCard />)}
        {counted('form', <FormCard />)}
        {counted('UV sets', <UvSetsCard />)}
        {counted('deliver', <DeliverPanel />)}
        {counted('seams', <SeamsPanel />)}
        {counted('selection', <SelectionBar />)}
        {counted('in words', <ViewsSummary />)}
      </MemoryRouter>
    </ThemeProvider>,
  );
  const click = async (face: number) => {
    const from = told.length;
    expect(await session.run('select', { kind: 'faces', ids: [face] })).toMatchObject({ ok: true });
    await session.idle();
    await act(async () => {
      // that it is saved is told some time later, in the top bar
      for (const event of told.slice(from)) if (event.kind !== 'saved') useBench.getState().receive(event);
      await Promise.resolve();
    });
  };
  // the first one makes undo possible, and the hints those of faces
  await click(0);
  // what is loaded later is there
  await act(async () => {
    await Promise.all([
      import('./stations/JoinCard.tsx'),
      import('./stations/PinsCard.tsx'),
      import('./stations/Proposals.tsx'),
      import('./stations/SeamFigures.tsx'),
    ]);
    await new Promise((next) => setTimeout(next, 50));
  });
  renders.clear();
  await click(1);
  expect([...renders.keys()].sort()).toEqual(['in words', 'parts', 'seams', 'selection']);
  await session.close();
  vi.useRealTimers();
});
