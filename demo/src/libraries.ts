import { type OwnField, type SightRole, sightRoles } from '@polychron/core';
import { stories } from './stories.ts';
import type { DemoLibrary, Series } from './story.ts';

/**
 * A day's wind limits: a text whose figures move with the season and the measurements, a little more in the
 * autumn of each year.
 */
function windTable(place: number): string {
  const season = Math.sin(place / 24);
  const limit = (base: number, spread: number): string =>
    (base + Math.round(season * spread * 2) / 2).toFixed(1);
  const notes = [
    'Anemometer 2 was read against the mast.',
    'The crest was measured by hand.',
    'Gusts of the night before are in the table.',
    'Tower 6 stands in the lee of the new wood.',
  ];
  const remarks = Array.from(
    { length: 1 + (place % 7) },
    (_, index) => `- ${notes[(place + index) % notes.length] ?? ''} Reading ${place * 3 + index}.`,
  );
  return `# 1 Limits
| Span | Stop above | Open below |
| Valley to Tower 3 | ${limit(18, 1.5)} m/s | ${limit(14, 1)} m/s |
| Tower 3 to Tower 6 | ${limit(17, 1.5)} m/s | ${limit(12, 1)} m/s |
| Tower 6 to Tower 8 | ${limit(16, 2)} m/s | ${limit(12, 1)} m/s |
| Tower 8 to Crest | ${limit(15, 2)} m/s | ${limit(10, 1)} m/s |
The lower of two limits governs the whole line.
# 2 Remarks
${remarks.join('\n')}`;
}
const windComments = [
  'Readings of the week',
  'Gusts of the night',
  'Anemometer 2 recalibrated',
  'Limit of the crest span',
  'Remark of the line inspector',
  'Readings after the gale',
  'Rounding corrected',
];

const windLimits: Series = {
  number: 'WL-001',
  title: 'Wind limits by span',
  kind: 'Wind-limit table',
  subject: ['weather'],
  owner: 'author',
  by: 'author2',
  reviewInDays: 30,
  versions: 300,
  days: 530,
  publishEvery: 10,
  textAt: windTable,
  commentAt: (place) => windComments[place % windComments.length] ?? '',
};

/** A field of a library's own; what is left out is as usual. */
const field = (name: string, kind: OwnField['kind'], more: Partial<OwnField> = {}): OwnField => ({
  ...{ name, kind, choices: [], requiredFor: [], administrative: false },
  ...more,
});
/** Where on the ropeway something holds. */
const section = {
  choices: [
    { name: 'Stations', within: ['Valley', 'Crest'] },
    { name: 'Line', within: ['Tower 1 to 3', 'Tower 3 to 6', 'Tower 6 to 8'] },
    { name: 'Carriers', within: [] },
  ],
};

const everyone: SightRole[] = [...sightRoles];

/** The libraries of Orrin Vale Ropeway, each with other rules; all invented. */
export const libraries: DemoLibrary[] = [
  {
    name: 'Operating procedures',
    code: 'OP',
    purpose: 'How the ropeway is run, inspected and rescued from, day by day.',
    rulebook: {
      fields: [
        field('Section', 'choice', section),
        field('Line closed', 'yesNo'),
        field('Binder', 'text', { administrative: true }),
      ],
    },
    stories,
  },
  {
    name: 'Inspection checklists',
    code: 'CK',
    purpose: 'Lists that are ticked off on the line and in the stations.',
    rulebook: {
      numbering: 'whole',
      custody: 'optional',
      checkInComment: 'optional',
      keep: { published: 3 },
      readersSeePast: true,
      graceDays: 60,
    },
    stories: [
      {
        number: 'CK-001',
        title: 'Weekly rope inspection',
        kind: 'Inspection checklist',
        subject: ['inspection', 'rope'],
        owner: 'author',
        reviewInDays: 61,
        first: { daysAgo: 498, by: 'author', comment: 'First list' },
        text: `# 1 Before the round
- Line closed and locked, key with the inspector.
- Rope dry, or remark made.
# 2 Along the rope
- Broken wires counted over 500 mm at each mark.
- Diameter measured at the splice and at two further places.
- Grease film without gaps.
# 3 Record
Every count is written down, also a count of nought.`,
        events: [
          {
            daysAgo: 420,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: 'Counting length after the training',
            edits: [['over 500 mm', 'over six rope diameters']],
          },
          {
            daysAgo: 335,
            by: 'author2',
            act: 'upload',
            level: 'major',
            comment: 'Splice measured twice',
            edits: [
              ['Diameter measured at the splice', 'Diameter measured twice at the splice, at right angles,'],
            ],
          },
          {
            daysAgo: 240,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: '',
            edits: [
              ['- Grease film without gaps.', '- Grease film without gaps.\n- No rust at the strands.'],
            ],
          },
          {
            daysAgo: 130,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: 'Limit of broken wires named',
            edits: [
              [
                '# 3 Record',
                'More than six broken wires over the length: the line stays closed.\n# 3 Record',
              ],
            ],
          },
          {
            daysAgo: 48,
            by: 'author2',
            act: 'upload',
            level: 'major',
            comment: 'Lamp for the night round',
            edits: [['- Rope dry, or remark made.', '- Rope dry, or remark made.\n- Lamp tried.']],
          },
          {
            daysAgo: 9,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: 'Remark column',
            edits: [
              ['also a count of nought.', 'also a count of nought, with the weather in the remark column.'],
            ],
          },
        ],
      },
      {
        number: 'CK-002',
        title: 'Cabin doors and seals',
        kind: 'Inspection checklist',
        subject: ['inspection', 'cabins'],
        owner: 'author2',
        reviewInDays: -20,
        first: { daysAgo: 410, by: 'author2', comment: 'First list' },
        text: `# 1 Every cabin
- Door closes by itself from a hand's breadth.
- Seal without tear.
- Emergency release tried from inside.
# 2 If something is amiss
The cabin is taken off the line and tagged.`,
        events: [
          {
            daysAgo: 300,
            by: 'author2',
            act: 'upload',
            level: 'major',
            comment: 'Release tried with gloves',
            edits: [['tried from inside.', 'tried from inside, with gloves on.']],
          },
          {
            daysAgo: 88,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: 'Window latch',
            edits: [['- Seal without tear.', '- Seal without tear.\n- Window latch holds.']],
          },
          {
            daysAgo: 6,
            by: 'author2',
            act: 'hold',
            reason: 'Walking the cabins with the list',
            days: 4,
            saves: [[['- Window latch holds.', '- Window latch holds, both sides.']]],
          },
        ],
      },
      {
        number: 'CK-003',
        title: 'Tower saddles and sheaves',
        kind: 'Inspection checklist',
        subject: ['inspection', 'towers'],
        owner: 'author',
        reviewInDays: 100,
        first: { daysAgo: 377, by: 'author', comment: "From the maker's handbook" },
        text: `# 1 From the ground
- No sheave stands still while the rope runs.
- No new sound.
# 2 On the tower
- Liner thickness of every third sheave.
- Bolts marked, marks in line.`,
        events: [
          {
            daysAgo: 205,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: 'Every sheave in place of every third',
            edits: [['Liner thickness of every third sheave.', 'Liner thickness of every sheave.']],
          },
          {
            daysAgo: 60,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: 'Shortened by mistake',
            edits: [
              ['# 1 From the ground\n- No sheave stands still while the rope runs.\n- No new sound.\n', ''],
              ['- Bolts marked, marks in line.', '- Bolts.'],
            ],
          },
          {
            daysAgo: 59,
            by: 'controller',
            act: 'restore',
            from: '2',
            level: 'major',
            comment: 'The whole list again',
          },
        ],
      },
      {
        number: 'CK-004',
        title: 'Fire extinguishers',
        kind: 'Inspection checklist',
        subject: ['stations'],
        owner: 'controller',
        reviewInDays: 15,
        first: { daysAgo: 290, by: 'controller', comment: 'First list' },
        text: `# 1 Both stations
- Seal whole, hand in the green.
- Weight on the label, not older than two years.`,
        events: [
          {
            daysAgo: 33,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: 'Workshop added',
            edits: [['# 1 Both stations', '# 1 Both stations and the workshop']],
          },
        ],
      },
    ],
  },
  {
    name: 'Rescue plans',
    code: 'RP',
    purpose: 'What is done when people hang on the line. Nothing here holds before two have agreed.',
    rulebook: {
      numberPatterns: [{ type: 'Rescue plan', pattern: 'RP-###' }],
      fields: [
        field('Section', 'choice', { ...section, requiredFor: ['Rescue plan'] }),
        field('Leads the rescue', 'person'),
        field('Last drill', 'date'),
        field('Rescuers', 'number'),
        field('Binder', 'text', { administrative: true }),
      ],
      approval: { on: true, mode: 'serial', approvers: ['approver', 'approver2'], publishing: 'byOwner' },
      sight: { draft: ['author', 'approver'], inApproval: ['author', 'approver'], rejected: [] },
      keep: { drafts: { stay: 'P180D', newest: 2 } },
      custodyDays: 10,
    },
    groups: [{ group: 'Rescue team', roles: ['reader'] }],
    stories: [
      {
        number: 'RP-101',
        title: 'Rescue from a cabin by rope',
        kind: 'Rescue plan',
        subject: ['rescue', 'cabins'],
        owner: 'author',
        reviewInDays: 140,
        own: {
          Section: ['Carriers'],
          'Leads the rescue': 'author',
          'Last drill': '2026-05-16',
          Rescuers: 4,
          Binder: 'Rescue 1',
        },
        first: { daysAgo: 505, by: 'author', comment: 'From the exercise in spring' },
        text: `# 1 Who goes
Two rescuers with a bag each, one on the ground with a radio.
# 2 At the cabin
1. Speak to everybody before the door is opened.
1. Secure the door.
1. Lower one at a time, children first.
# 3 On the ground
Names are written down as people arrive.`,
        events: [
          { daysAgo: 498, by: 'author', act: 'submit', comment: 'Tried out on 4 May' },
          { daysAgo: 495, by: 'approver', act: 'decide', decision: 'approve' },
          { daysAgo: 493, by: 'approver2', act: 'decide', decision: 'approve' },
          { daysAgo: 490, by: 'author', act: 'publish', comment: 'First issue' },
          {
            daysAgo: 350,
            by: 'author2',
            act: 'checkIn',
            level: 'minor',
            comment: 'Children with an adult',
            edits: [['children first.', 'a child with an adult, first.']],
          },
          {
            daysAgo: 341,
            by: 'author',
            act: 'checkIn',
            level: 'minor',
            comment: 'Helmets',
            edits: [['1. Secure the door.', '1. Secure the door.\n1. Helmets on.']],
          },
          {
            daysAgo: 330,
            by: 'author',
            act: 'checkIn',
            level: 'minor',
            comment: 'Radio channel named',
            edits: [['one on the ground with a radio.', 'one on the ground with a radio on channel 4.']],
          },
          { daysAgo: 322, by: 'author', act: 'submit' },
          { daysAgo: 320, by: 'approver', act: 'decide', decision: 'approve', comment: 'Good' },
          { daysAgo: 316, by: 'approver2', act: 'decide', decision: 'approve' },
          { daysAgo: 310, by: 'author', act: 'publish', comment: 'After the autumn exercise' },
          {
            daysAgo: 95,
            by: 'author',
            act: 'checkIn',
            level: 'minor',
            comment: 'Blankets',
            edits: [['Names are written down', 'Blankets are given out, names are written down']],
          },
          { daysAgo: 90, by: 'author', act: 'submit' },
          { daysAgo: 87, by: 'approver', act: 'decide', decision: 'approve' },
          { daysAgo: 80, by: 'approver2', act: 'decide', decision: 'approve' },
          { daysAgo: 78, by: 'author', act: 'publish', comment: 'Blankets in both stations' },
          {
            daysAgo: 14,
            by: 'author2',
            act: 'checkIn',
            level: 'minor',
            comment: 'Second ground post',
            edits: [
              [
                'one on the ground with a radio on channel 4.',
                'one on the ground with a radio on channel 4, a second at the road.',
              ],
            ],
          },
          { daysAgo: 6, by: 'author2', act: 'submit', comment: 'The road was blocked in the last exercise' },
          { daysAgo: 4, by: 'approver', act: 'decide', decision: 'approve', comment: 'Needed since spring' },
        ],
      },
      {
        number: 'RP-102',
        title: 'Rescue at night',
        kind: 'Rescue plan',
        subject: ['rescue'],
        owner: 'author2',
        reviewInDays: 33,
        own: { Section: ['Line'], 'Leads the rescue': 'author2', Rescuers: 6, Binder: 'Rescue 1' },
        first: { daysAgo: 120, by: 'author2', comment: 'First draft' },
        text: `# 1 Light
Every rescuer carries two lamps. The valley station lights the line.
# 2 Span table
| Span | Lamps on the ground |
| Valley to Tower 3 | 4 |
| Tower 3 to Tower 6 | 6 |`,
        events: [
          { daysAgo: 20, by: 'author2', act: 'submit' },
          {
            daysAgo: 18,
            by: 'approver',
            act: 'decide',
            decision: 'reject',
            comment: 'Span table incomplete: Tower 6 to the crest is missing',
          },
        ],
      },
      {
        number: 'RP-103',
        title: 'Telling relatives and the press',
        kind: 'Rescue plan',
        subject: ['rescue', 'crew'],
        owner: 'controller',
        reviewInDays: 220,
        own: { Section: ['Stations', 'Valley'], 'Leads the rescue': 'controller', Binder: 'Rescue 2' },
        first: { daysAgo: 260, by: 'controller', comment: 'First draft' },
        text: `# 1 One voice
The shift leader of the valley station speaks. Nobody else does.
# 2 What is said
How many people are safe; never a name.`,
        events: [
          { daysAgo: 250, by: 'controller', act: 'submit' },
          { daysAgo: 248, by: 'approver', act: 'decide', decision: 'approve' },
          { daysAgo: 246, by: 'approver2', act: 'decide', decision: 'approve' },
          { daysAgo: 244, by: 'controller', act: 'publish', comment: 'First issue' },
          {
            daysAgo: 25,
            by: 'author',
            act: 'checkIn',
            level: 'minor',
            comment: 'A second voice at the hospital',
            edits: [['Nobody else does.', 'Nobody else does, except the duty engineer at the hospital.']],
          },
          { daysAgo: 17, by: 'author', act: 'submit' },
          { daysAgo: 15, by: 'approver', act: 'decide', decision: 'approve' },
          {
            daysAgo: 11,
            by: 'approver2',
            act: 'decide',
            decision: 'approve',
            comment: 'From the new roster on',
          },
          { daysAgo: 8, by: 'controller', act: 'publish', comment: 'With the new roster', inDays: 12 },
          {
            daysAgo: 7,
            by: 'controller',
            act: 'limit',
            people: ['author', 'approver'],
            groups: ['Rescue team'],
            reason: 'Names of those who speak to relatives',
          },
        ],
      },
      {
        number: 'RP-104',
        title: 'Helicopter at the crest',
        kind: 'Rescue plan',
        subject: ['rescue', 'weather'],
        owner: 'author',
        reviewInDays: 300,
        own: {
          Section: ['Stations', 'Crest'],
          'Leads the rescue': 'author',
          'Last drill': '2026-08-22',
          Rescuers: 3,
        },
        first: { daysAgo: 70, by: 'author', comment: 'After the talk with the pilots' },
        text: `# 1 When
Only by day, wind at the crest under 12 m/s.
# 2 The pad
1. Cabins are taken off the last span.
1. Loose things are carried into the station.`,
        events: [
          { daysAgo: 12, by: 'author', act: 'submit' },
          { daysAgo: 10, by: 'approver', act: 'decide', decision: 'approve' },
          {
            daysAgo: 3,
            by: 'approver2',
            act: 'decide',
            decision: 'approve',
            comment: 'Wind limit checked with the pilots',
          },
        ],
      },
      {
        number: 'RP-105',
        title: 'A cabin stopped over the road',
        kind: 'Rescue plan',
        subject: ['rescue', 'cabins'],
        owner: 'author2',
        reviewInDays: 60,
        own: { Section: ['Line', 'Tower 1 to 3'], 'Leads the rescue': 'author2', Rescuers: 5 },
        first: { daysAgo: 210, by: 'author2', comment: 'After the stop in April' },
        text: `# 1 The road
1. The road is closed at both ends before a rope is lowered.
1. The police are asked for two cars; until they come the crew stands there.
# 2 The cabin
1. Passengers stay seated until the cabin is held from below.
1. The winch of the rescue lorry is used, not the hand winch.
# 3 Opening the road
The shift leader opens it, once the cabin has passed Tower 4.`,
        events: [
          { daysAgo: 204, by: 'author2', act: 'submit' },
          { daysAgo: 202, by: 'approver', act: 'decide', decision: 'approve' },
          { daysAgo: 199, by: 'approver2', act: 'decide', decision: 'approve' },
          { daysAgo: 198, by: 'author2', act: 'publish', comment: 'First issue' },
          {
            daysAgo: 16,
            by: 'author2',
            act: 'checkIn',
            level: 'minor',
            comment: 'What the police asked for',
            edits: [
              [
                'The police are asked for two cars; until they come the crew stands there.',
                'The police are asked for two cars and told the lane; until they come four of the crew stand there with lamps.',
              ],
              [
                'once the cabin has passed Tower 4.',
                'once the cabin has passed Tower 4 and the police agree.',
              ],
            ],
          },
          { daysAgo: 9, by: 'author2', act: 'submit', comment: 'Agreed with the police post on the 14th' },
        ],
      },
      {
        number: 'RP-106',
        title: 'A stretcher through the hatch of Tower 6',
        kind: 'Rescue plan',
        subject: ['rescue', 'towers'],
        owner: 'author',
        reviewInDays: 330,
        own: {
          Section: ['Line', 'Tower 6 to 8'],
          'Leads the rescue': 'author',
          'Last drill': '2026-06-06',
          Rescuers: 4,
        },
        first: { daysAgo: 5, by: 'author', comment: 'Written with the mountain rescue' },
        text: `# 1 Before anybody climbs
1. The line stands and is locked at both stations.
1. Two ropes hang from the upper platform, one for the stretcher, one for the guide.
# 2 Through the hatch
The stretcher goes feet first. The guide keeps it off the ladder; nobody stands below.
# 3 On the ground
The stretcher is carried by four to the road, not by the service lift.`,
        events: [
          { daysAgo: 1, by: 'author', act: 'submit', comment: 'Please look at the hatch: it is 61 cm wide' },
        ],
      },
    ],
  },
  {
    name: 'Shift forms and notices',
    code: 'SF',
    purpose: 'Sheets that hang in the stations. Only the present one matters.',
    rulebook: {
      numbering: 'none',
      graceDays: 90,
      checkInComment: 'optional',
      sight: { draft: everyone, inApproval: everyone, rejected: everyone },
    },
    stories: [
      {
        number: 'SF-001',
        title: 'Roster sheet',
        kind: 'Shift form',
        subject: ['crew'],
        owner: 'controller',
        reviewInDays: 40,
        first: { daysAgo: 300, by: 'controller', comment: 'Roster sheet' },
        text: `| Day | Valley | Crest | Line |
| Monday | | | |
| Tuesday | | | |
Absences are told by noon of the day before.`,
        events: [
          {
            daysAgo: 71,
            by: 'controller',
            act: 'checkIn',
            level: 'major',
            comment: 'Wednesday to Sunday',
            edits: [['| Tuesday | | | |', '| Tuesday | | | |\n| Wednesday | | | |\n| Thursday | | | |']],
          },
          {
            daysAgo: 21,
            by: 'author',
            act: 'checkIn',
            level: 'major',
            comment: 'Workshop column',
            edits: [['| Day | Valley | Crest | Line |', '| Day | Valley | Crest | Line and workshop |']],
          },
        ],
      },
      {
        number: 'SF-002',
        title: 'Notice: last ride',
        kind: 'Notice',
        subject: ['passengers'],
        owner: 'author',
        reviewInDays: 90,
        first: { daysAgo: 200, by: 'author', comment: 'Summer hours' },
        text: `# Last ride
The last cabin leaves the crest at 19:30.`,
        events: [
          {
            daysAgo: 40,
            by: 'author',
            act: 'checkIn',
            level: 'major',
            comment: 'Winter hours',
            edits: [['19:30', '17:00']],
          },
        ],
      },
      {
        number: 'SF-003',
        title: 'Lost property slip',
        kind: 'Shift form',
        subject: ['passengers', 'forms'],
        owner: 'author2',
        reviewInDays: 365,
        first: { daysAgo: 150, by: 'author2', comment: 'Slip' },
        text: `Found on: ____ in cabin: ____ by: ____
Given back on: ____ to: ____`,
        events: [],
      },
    ],
  },
  {
    name: 'Wind-limit tables',
    code: 'WL',
    purpose: 'The limits that hold this week, span by span, and where they came from.',
    rulebook: {
      custody: 'optional',
      checkInComment: 'optional',
      keep: { published: 17, drafts: { stay: 'withTheirVersion' } },
      graceDays: 45,
    },
    later: { allowanceBytes: 2_300_000, reason: 'Space on the control room server' },
    stories: [
      {
        number: 'WL-002',
        title: 'Wind limits for works on the line',
        kind: 'Wind-limit table',
        subject: ['weather', 'inspection'],
        owner: 'author',
        reviewInDays: 77,
        first: { daysAgo: 330, by: 'author', comment: 'First table' },
        text: `# 1 Limits
| Work | Stop above |
| On a tower | 12 m/s |
| On the rope | 8 m/s |
| On a station roof | 14 m/s |`,
        events: [
          { daysAgo: 320, by: 'controller', act: 'publish', comment: 'First issue' },
          {
            daysAgo: 180,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: 'Ladders',
            edits: [
              ['| On a station roof | 14 m/s |', '| On a station roof | 14 m/s |\n| On a ladder | 10 m/s |'],
            ],
          },
          {
            daysAgo: 179,
            by: 'controller',
            act: 'shelter',
            version: '1.0',
            reason: 'Named in the accident report of the roof works',
          },
          {
            daysAgo: 31,
            by: 'author2',
            act: 'upload',
            level: 'minor',
            comment: 'Crane',
            edits: [['| On a ladder | 10 m/s |', '| On a ladder | 10 m/s |\n| With the crane | 9 m/s |']],
          },
        ],
      },
      {
        number: 'WL-003',
        title: 'Reading the anemometers',
        kind: 'Instruction',
        subject: ['weather'],
        owner: 'author2',
        reviewInDays: 120,
        ending: 'md',
        first: { daysAgo: 210, by: 'author2', comment: 'Written down after the training' },
        text: `# Reading the anemometers

## When

Read both masts at **six**, at noon and before the last cabin.

## How

1. Wait until the needle has swung for one minute.
2. Read the highest gust of that minute, not the mean.
3. Call the value to the control room.

## What is written down

| Mast | Value | By |
| --- | --- | --- |
| Valley | | |
| Crest | | |

A mast that does not turn is reported to the workshop.
`,
        events: [
          { daysAgo: 205, by: 'controller', act: 'publish', comment: 'First issue' },
          {
            daysAgo: 60,
            by: 'author',
            act: 'upload',
            level: 'major',
            comment: 'Two minutes at the crest',
            edits: [['swung for one minute.', 'swung for one minute, at the crest for two.']],
          },
          {
            daysAgo: 12,
            by: 'author2',
            act: 'hold',
            reason: 'New mast at Tower 6',
            days: 4,
            saves: [
              [['Read both masts at', 'Read all three masts at']],
              [
                ['| Valley | | |', '| Valley | | |\n| Tower 6 | | |'],
                ['Call the value to the control room.', 'Call the value to the control room and repeat it.'],
              ],
            ],
          },
          {
            daysAgo: 5,
            by: 'controller',
            act: 'lift',
            reason: 'On leave, and the hourly reading cannot wait',
          },
          {
            daysAgo: 4,
            by: 'author',
            act: 'upload',
            level: 'minor',
            comment: 'Every hour while it blows',
            edits: [
              ['before the last cabin.', 'before the last cabin; every hour while it blows.'],
              ['Call the value to the control room.', 'Call the value to the control room by channel 4.'],
            ],
          },
          { daysAgo: 3, by: 'author', act: 'looseCopy', version: '2.1' },
        ],
      },
      {
        number: 'WL-004',
        title: 'Calibration of the masts',
        kind: 'Record',
        subject: ['weather', 'inspection'],
        owner: 'author',
        reviewInDays: 60,
        ending: 'csv',
        first: { daysAgo: 90, by: 'author', comment: 'Values of the workshop' },
        text: 'mast,date,offset m/s,by\nValley,2026-05-04,0.2,J. Sandoval\nCrest,2026-05-04,-0.4,J. Sandoval\n',
        events: [
          {
            daysAgo: 24,
            by: 'author2',
            act: 'upload',
            level: 'minor',
            comment: 'Tower 6',
            edits: [['Crest,', 'Tower 6,2026-11-01,0.1,J. Sandoval\nCrest,']],
          },
        ],
      },
    ],
    series: [windLimits],
  },
];
