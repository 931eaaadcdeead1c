import { unitKind, type UnitKind } from './unit-kind';

const chassis = (kind: string, prefix: string, title: string, says: string, firstNumber = 1): UnitKind =>
  unitKind({ kind, title, says, prefix, standIn: true, settings: null, defaults: {}, firstNumber });

/** Chassis and other units that are found by themselves; stand-ins until hardware is there. */
export const CHASSIS_KINDS: readonly UnitKind[] = [
  chassis('dock chassis', 'QH', 'Dock chassis', 'Six modules on a tidal-stream rotor that turns.', 417),
  chassis(
    'bench chassis',
    'BC',
    'Bench chassis',
    'Ten modules, every kind of input and output; each sensor is moved by hand.',
  ),
  chassis(
    'bridge rack',
    'BR',
    'Bridge rack',
    '64 strain gauge bridges with shunts under one hand’s load; a few of them are damaged.',
  ),
  chassis(
    'counting source',
    'CS',
    'Counting source',
    '32 channels whose every sample is its own number: proves a recording chain.',
  ),
];
