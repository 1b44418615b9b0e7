import { DndContext, KeyboardSensor, PointerSensor, useDraggable, useDroppable, useSensor, useSensors, type DragEndEvent } from '@dnd-kit/core';
import { Box, Button, IconButton, Tooltip, Typography } from '@mui/material';
import AddIcon from '@mui/icons-material/Add';
import GripIcon from '@mui/icons-material/DragIndicator';
import RemoveIcon from '@mui/icons-material/DeleteOutlined';
import { NameField } from '../../fields/NameField.tsx';
import { NumberField } from '../../fields/NumberField.tsx';
import type { JobSummary } from '../../session/messages.ts';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { Card } from './Card.tsx';
import { MaterialSheets } from './MaterialSheets.tsx';

type Part = JobSummary['parts'][number];
type SheetRow = JobSummary['sheets'][number];
/** Stands for parts that are on no sheet. */
const offSheet = 'off';

/** The sheets of the job with the parts on them, which are dragged from one to another. */
export default function SheetsCard() {
  const sheets = useBench((s) => s.summary!.sheets);
  const parts = useBench((s) => s.summary!.parts);
  const active = useBench((s) => s.summary!.activePart);
  const chosen = useBench((s) => s.summary!.selectedParts);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }), useSensor(KeyboardSensor));
  const dropped = ({ active: dragged, over }: DragEndEvent) => {
    const part = parts.find(({ id }) => id === dragged.id);
    if (!part || !over || (part.sheet ?? offSheet) === over.id) return;
    // one of several that are chosen takes the others along
    const moved = chosen.includes(part.id) ? [...chosen] : [part.id];
    void run('sheets', over.id === offSheet ? { do: 'takeOff', parts: moved } : { do: 'assign', sheet: String(over.id), parts: moved }, true);
  };
  const off = parts.filter(({ sheet }) => sheet === null);
  return (
    <Card title={sheets.length === 1 ? 'Sheet of the job' : `${sheets.length} sheets`}>
      <DndContext sensors={sensors} onDragEnd={dropped}>
        {sheets.map((sheet) => (
          <SheetBox key={sheet.id} sheet={sheet} parts={parts.filter((part) => part.sheet === sheet.id)} active={active} only={sheets.length === 1} />
        ))}
        {(off.length > 0 || parts.length > 1) && <OffSheet parts={off} active={active} />}
      </DndContext>
      <Button size="small" variant="outlined" startIcon={<AddIcon />} onClick={() => void run('sheets', { do: 'add' }, true)}>
        Add a sheet
      </Button>
      <MaterialSheets parts={parts} />
    </Card>
  );
}

function SheetBox({ sheet, parts, active, only }: { sheet: SheetRow; parts: Part[]; active: string; only: boolean }) {
  const { setNodeRef, isOver } = useDroppable({ id: sheet.id });
  const job = useBench((s) => s.summary!.id);
  const isPresent = parts.some(({ id }) => id === active);
  return (
    <Box
      ref={setNodeRef}
      role="group"
      aria-label={`Sheet ${sheet.name}${isPresent ? ', shown' : ''}`}
      sx={{ border: isOver ? 2 : 1, borderColor: isOver || isPresent ? 'primary.main' : 'divider', borderRadius: 1, p: isOver ? '7px' : 1 }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, mb: 0.5 }}>
        <NameField
          bare
          label="Name of the sheet"
          value={sheet.name}
          change={{ job, operation: 'sheets', params: { do: 'change', sheet: sheet.id }, field: 'name' }}
        />
        <Box sx={{ width: 62, flex: 'none' }}>
          <NumberField
            bare
            whole
            label="Tiles"
            value={sheet.tiles}
            min={1}
            max={100}
            onChange={(tiles) => void run('sheets', { do: 'change', sheet: sheet.id, tiles })}
          />
        </Box>
        {!only && (
          <Tooltip title="Remove this sheet; its parts go to the first one">
            <IconButton size="small" aria-label={`Remove ${sheet.name}`} onClick={() => void run('sheets', { do: 'remove', sheet: sheet.id }, true)}>
              <RemoveIcon sx={{ fontSize: 17 }} />
            </IconButton>
          </Tooltip>
        )}
      </Box>
      <Typography variant="caption" color="text.secondary" component="div" sx={{ mb: 0.5 }}>
        {sheet.width} × {sheet.height} px, margin {sheet.margin} px{sheet.tiles > 1 ? `, tiles 1001 to ${1000 + sheet.tiles}` : ''}
      </Typography>
      <Chips parts={parts} active={active} empty="No part yet: drag one here" />
    </Box>
  );
}

function OffSheet({ parts, active }: { parts: Part[]; active: string }) {
  const { setNodeRef, isOver } = useDroppable({ id: offSheet });
  return (
    <Box
      ref={setNodeRef}
      role="group"
      aria-label="On no sheet"
      sx={{ border: 1, borderStyle: 'dashed', borderColor: isOver ? 'primary.main' : 'divider', borderRadius: 1, p: 1 }}
    >
      <Typography variant="caption" color="text.secondary" component="div">
        On no sheet
      </Typography>
      <Chips parts={parts} active={active} empty="Parts whose UVs only drive repeating images" />
    </Box>
  );
}

function Chips({ parts, active, empty }: { parts: Part[]; active: string; empty: string }) {
  if (parts.length === 0)
    return (
      <Typography variant="caption" color="text.secondary">
        {empty}
      </Typography>
    );
  return (
    <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5, maxHeight: 168, overflowY: 'auto' }}>
      {parts.map((part) => (
        <Chip key={part.id} part={part} isActive={part.id === active} />
      ))}
    </Box>
  );
}

function Chip({ part, isActive }: { part: Part; isActive: boolean }) {
  const { setNodeRef, listeners, attributes, transform, isDragging } = useDraggable({ id: part.id });
  return (
    <Box
      ref={setNodeRef}
      sx={{
        display: 'flex',
        alignItems: 'center',
        maxWidth: '100%',
        border: 1,
        borderColor: isActive ? 'primary.main' : 'divider',
        bgcolor: isActive ? 'action.selected' : 'background.paper',
        borderRadius: 1,
        zIndex: isDragging ? 10 : 'auto',
        position: 'relative',
      }}
      style={transform ? { transform: `translate(${transform.x}px, ${transform.y}px)` } : undefined}
    >
      <Box
        {...listeners}
        {...attributes}
        aria-label={`Drag ${part.name} to another sheet`}
        sx={{ display: 'grid', cursor: 'grab', touchAction: 'none', '&:focus-visible': { outline: 2 } }}
      >
        <GripIcon sx={{ fontSize: 15, color: 'text.secondary' }} />
      </Box>
      <Box
        component="button"
        onClick={() => void run('activatePart', { part: part.id })}
        disabled={isActive}
        sx={{
          border: 0,
          background: 'none',
          font: 'inherit',
          fontSize: 12.5,
          color: 'inherit',
          pl: 0,
          pr: 0.75,
          py: 0.3,
          cursor: isActive ? 'default' : 'pointer',
          overflow: 'hidden',
          textOverflow: 'ellipsis',
          whiteSpace: 'nowrap',
        }}
      >
        {part.name}
      </Box>
    </Box>
  );
}
