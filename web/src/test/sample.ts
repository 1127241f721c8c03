import type { Schemas } from '../api/client'

/** The smallest pack a visit can be led by: an outdoor unit with one coil of two sides. */
export function samplePack(): Schemas['VisitPack'] {
  const side = (id: string, name: string) => ({ id, name, area_share: 0.5, reachable: true })
  return {
    today: '2026-03-04',
    unit: {
      id: 'unit-1',
      tag: 'HO-CU-1',
      class: 'Outdoor condensing unit',
      coils: [
        { id: 'coil-1', role: 'condenser', sides: [side('s1', 'front'), side('s2', 'wall side')], tasks: [] },
      ],
    },
    catalogue: {
      soils: [
        { id: 'soil-grease', code: 'grease', name: 'Grease' },
        { id: 'soil-fluff', code: 'seed_fluff', name: 'Seed fluff' },
      ],
      methods: [
        { id: 'm1', code: 'brush_vacuum', name: 'Brush and vacuum', wet: false },
        { id: 'm2', code: 'foam_rinse', name: 'Foam and rinse', wet: true },
      ],
      cleaners: [
        { id: 'k1', code: 'heavy_alkaline', name: 'Heavy alkaline' },
        { id: 'k2', code: 'foaming_aerosol', name: 'Foaming aerosol' },
      ],
      people: [{ id: 'p1', code: 'P', name: 'Technician, Crew Tern' }],
      cautions: [],
    },
    procedure: { version: 1, steps: [] },
    steps: [],
    tags: ['outdoors'],
    coils: [
      {
        coil_id: 'coil-1',
        advice: {
          coil: { slabs: 1 },
          place: { water: true },
          found: { kind: 'leaf_grass' },
          cleaners: [
            { code: 'heavy_alkaline', form: 'concentrate', ph: 12.5 },
            { code: 'foaming_aerosol', form: 'aerosol', ph: 9 },
          ],
        },
        sides: [
          { surface_id: 's1', rows: 1, columns: 2, reachable: true, why_not: '' },
          { surface_id: 's2', rows: 1, columns: 2, reachable: true, why_not: '' },
        ],
      },
    ],
    sprayers: [],
    kits: [],
    watch: [],
    symptoms: [],
    parts: [],
    questions: [],
    forecast: { days: [], known: false },
    place: {
      isolation_point: 'wall',
      isolation_kind: 'disconnect',
      water: 'yes',
      drain: 'unknown',
      flammable: 'no',
    },
  } as unknown as Schemas['VisitPack']
}
