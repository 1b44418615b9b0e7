import { Card } from './Card.tsx';
import { CompareRow } from './check/CompareRow.tsx';
import { BakeCard } from './images/BakeCard.tsx';
import { ContinuityCard, VaryCard } from './images/ContinuityCard.tsx';
import { HereCard } from './images/HereCard.tsx';
import { HeadingCard } from './images/HeadingCard.tsx';
import { SharpnessCard } from './images/SharpnessCard.tsx';
import { LayersCard } from './images/LayersCard.tsx';
import { PictureCard } from './PictureCard.tsx';
import { PlacementCard } from './PlacementCard.tsx';

/** Pictures on the model: which, how they lie, what lies over them, and the picture that is made of all. */
export default function ImagesPanel() {
  return (
    <>
      <PictureCard />
      <PlacementCard />
      <LayersCard />
      <HereCard />
      <ContinuityCard />
      <SharpnessCard />
      <HeadingCard />
      <VaryCard />
      <Card title="Compare">
        <CompareRow />
      </Card>
      <BakeCard />
    </>
  );
}
