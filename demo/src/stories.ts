import type { Story } from './story.ts';

/** The controlled documents of the Operating procedures of Orrin Vale Ropeway: invented from end to end. */
export const stories: Story[] = [
  {
    number: 'OP-014',
    title: 'Opening the line after high wind',
    kind: 'Operating procedure',
    subject: ['running the line', 'weather'],
    owner: 'author',
    reviewInDays: 96,
    own: { Section: ['Line'], 'Line closed': true, Binder: 'Valley office, shelf 2' },
    first: { daysAgo: 540, by: 'author', comment: "First draft from the shift leaders' notes" },
    text: `# 1 Purpose and scope
This procedure says how the line is opened again after it was stopped for wind. It holds for every shift and for both drive stations. It does not cover stops for lightning, which OP-020 covers.
The shift leader decides. Nobody else opens the line, also not on request of the upper station.
# 2 Before anything moves
1. The shift leader reads both anemometers for ten minutes.
1. The lower reading of the two counts, not their mean.
1. The upper station confirms by radio that no carrier hangs at a tower.
1. The line inspector looks at the saddles of Tower 3 and Tower 6 through the glasses.
If one of the four is missing, the line stays closed. Write the reason into the shift record at once.
# 3 Wind limits by span
After a stop for wind the shift leader reads both anemometers before the line is opened. The lower of the two limits below governs the whole line.
| Span | Stop above | Open below |
| Valley to Tower 3 | 19 m/s | 14 m/s |
| Tower 3 to Tower 6 | 17 m/s | 12 m/s |
| Tower 6 to Crest | 16 m/s | 11 m/s |
A gust that passes a limit within the ten minutes starts them again.
===
# 4 The empty round
1. One empty carrier is sent over every span at creeping speed.
1. It is watched at each tower by somebody with a radio.
1. At Tower 6 it is stopped for one minute and its swing is estimated.
1. With a swing of more than a hand's breadth the line stays closed for another half hour.
The empty round takes about twenty minutes. Passengers wait in the station, not on the platform.
# 5 Opening
The shift leader says on channel 2: "Line open, half speed." The upper station repeats it. Full speed is allowed after the first ten carriers have arrived without remark.
- Carriers with a bicycle rack run last.
- The cabin with the loose door seal stays in the station.
- The first hour is run with two people on the platform.
# 6 Record
The shift record holds the readings, the time of the empty round, who watched at which tower, and the time of opening. It is kept for five years.`,
    events: [
      {
        daysAgo: 528,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Wind table completed with the span to the crest',
        edits: [['| 16 m/s | 11 m/s |', '| 15 m/s | 10 m/s |']],
      },
      { daysAgo: 506, by: 'controller', act: 'publish', comment: 'First issue' },
      {
        daysAgo: 431,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Who watches at the towers',
        edits: [
          [
            'It is watched at each tower by somebody with a radio.',
            'It is watched at each tower by a named person with a radio; the names stand in the shift record.',
          ],
        ],
      },
      {
        daysAgo: 402,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Swing at Tower 6 measured, no longer estimated',
        edits: [
          ['its swing is estimated.', 'its swing is read off the painted scale.'],
          ["With a swing of more than a hand's breadth", 'With a swing of more than 12 cm'],
        ],
      },
      { daysAgo: 388, by: 'controller', act: 'publish', comment: 'Swing is read off the scale' },
      {
        daysAgo: 290,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Half speed made one third',
        edits: [['"Line open, half speed."', '"Line open, one third speed."']],
      },
      {
        daysAgo: 262,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Limits for the new span',
        edits: [
          [
            '| Tower 6 to Crest | 15 m/s | 10 m/s |',
            '| Tower 6 to Tower 8 | 16 m/s | 12 m/s |\n| Tower 8 to Crest | 15 m/s | 10 m/s |',
          ],
          ['Tower 3 and Tower 6 through', 'Tower 3, Tower 6 and Tower 8 through'],
        ],
      },
      { daysAgo: 255, by: 'controller', act: 'publish', comment: 'Limits for the new span' },
      {
        daysAgo: 171,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Trial: opening by the upper station',
        edits: [
          [
            'The shift leader decides. Nobody else opens the line, also not on request of the upper station.',
            'The shift leader decides, or the upper station in their place.',
          ],
        ],
      },
      {
        daysAgo: 150,
        by: 'controller',
        act: 'restore',
        from: '3.0',
        level: 'minor',
        comment: 'Trial ended, the shift leader alone decides',
      },
      {
        daysAgo: 121,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Stop limit of the first span from the autumn gales',
        edits: [['| Valley to Tower 3 | 19 m/s | 14 m/s |', '| Valley to Tower 3 | 18 m/s | 15 m/s |']],
      },
      { daysAgo: 83, by: 'controller', act: 'publish', comment: 'Limits after the autumn gales' },
      {
        daysAgo: 34,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Second anemometer at Tower 8',
        edits: [
          [
            'The shift leader reads both anemometers for ten minutes.',
            'The shift leader reads all three anemometers for ten minutes.',
          ],
          [
            'The lower reading of the two counts, not their mean.',
            'The highest reading of the three counts, not their mean.',
          ],
        ],
      },
      {
        daysAgo: 12,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Gust rule added to the empty round',
        edits: [
          [
            'The empty round takes about twenty minutes.',
            'A gust above 12 m/s during the round ends it; it is begun again from the valley. The empty round takes about twenty minutes.',
          ],
          ['- The cabin with the loose door seal stays in the station.\n', ''],
        ],
      },
      {
        daysAgo: 2,
        by: 'author',
        act: 'hold',
        reason: 'Wording of the radio call',
        days: 5,
        saves: [
          [['"Line open, one third speed."', '"Line open, one third speed, report at each tower."']],
          [['The upper station repeats it.', 'The upper station repeats it word by word.']],
        ],
      },
    ],
  },
  {
    number: 'OP-011',
    title: 'Starting the drive in frost',
    kind: 'Operating procedure',
    subject: ['running the line', 'drive'],
    owner: 'author',
    reviewInDays: 44,
    own: { Section: ['Stations', 'Valley'], 'Line closed': false, Binder: 'Valley office, shelf 2' },
    first: { daysAgo: 512, by: 'author', comment: 'Taken over from the winter notes' },
    text: `# 1 When it applies
Below minus 5 °C at the lower station, or after a night below minus 8 °C, the main drive is started by this procedure.
# 2 Warming
1. Switch on the sump heater two hours before the first run.
1. Check that the oil stands between the marks.
1. Turn the auxiliary drive for fifteen minutes without load.
1. Listen at the gearbox: a dry sound ends the attempt.
# 3 Oil temperature
| Air | Oil before start | Creeping speed for |
| −5 to −10 °C | 15 °C | 10 min |
| −10 to −18 °C | 20 °C | 20 min |
| below −18 °C | 25 °C | 30 min |
Below minus 25 °C the drive is not started. Call the duty engineer.
===
# 4 First rounds
The first two rounds are run empty. The platform crew knocks ice off the grips with the wooden mallet, never with steel.
- Grip 1 to 20: first round.
- Grip 21 to 44: second round.
# 5 Record
Oil temperature, air temperature, and the time of the first loaded carrier.`,
    events: [
      { daysAgo: 498, by: 'controller', act: 'publish', comment: 'First issue' },
      {
        daysAgo: 370,
        by: 'author2',
        act: 'checkIn',
        level: 'major',
        comment: 'Sump heater on a timer',
        edits: [
          [
            'Switch on the sump heater two hours before the first run.',
            'Check that the timer switched the sump heater on two hours before the first run.',
          ],
        ],
      },
      {
        daysAgo: 301,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Mallet named',
        edits: [
          ['the wooden mallet, never with steel.', 'the wooden mallet from the red box, never with steel.'],
        ],
      },
      {
        daysAgo: 296,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Listening at two places',
        edits: [
          [
            'Listen at the gearbox: a dry sound ends the attempt.',
            'Listen at the gearbox and at the main bearing: a dry sound ends the attempt.',
          ],
        ],
      },
      { daysAgo: 288, by: 'controller', act: 'publish', comment: 'Two listening places' },
      {
        daysAgo: 41,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Oil temperature raised',
        edits: [
          ['| 15 °C | 10 min |', '| 18 °C | 10 min |'],
          ['| 20 °C | 20 min |', '| 22 °C | 20 min |'],
        ],
      },
      { daysAgo: 33, by: 'controller', act: 'publish', comment: 'Oil temperatures for the new oil' },
    ],
  },
  {
    number: 'OP-015',
    title: 'Evacuation by lowering',
    kind: 'Rescue plan',
    subject: ['rescue'],
    owner: 'author2',
    reviewInDays: -9,
    own: { Section: ['Carriers'], 'Line closed': true },
    first: { daysAgo: 470, by: 'author2', comment: 'First draft after the spring exercise' },
    text: `# 1 When it is used
When the line cannot be moved by any drive within ninety minutes, passengers are lowered from the carriers to the ground.
# 2 Teams
| Team | People | Place | Equipment |
| Valley | 4 | Tower 1 to Tower 3 | 2 descenders, 60 m rope |
| Middle | 6 | Tower 4 to Tower 6 | 3 descenders, 90 m rope |
| Crest | 4 | Tower 7 to Crest | 2 descenders, 120 m rope |
The leader of the rescue stands at the lower station and has the only list of carriers.
# 3 Lowering
1. Speak with the passengers before anything else.
1. Secure the carrier against swinging.
1. One rescuer climbs over from the tower and hangs the descender into the eye above the door.
1. Children are lowered with an adult, never alone.
1. The rescuer leaves the carrier last and marks its door with the yellow band.
===
# 4 Over the gorge
Between Tower 5 and Tower 6 nobody is lowered. These carriers are drawn to the tower by the hand winch.
# 5 Afterwards
Everyone lowered is counted at the lower station. The count is compared with the list of carriers before the last team comes down.`,
    events: [
      { daysAgo: 455, by: 'controller', act: 'publish', comment: 'First issue' },
      {
        daysAgo: 310,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Crest team strengthened',
        edits: [['| Crest | 4 |', '| Crest | 5 |']],
      },
      { daysAgo: 280, by: 'controller', act: 'publish', comment: 'Crest team of five' },
      {
        daysAgo: 96,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Hand winch checked first',
        edits: [
          [
            'These carriers are drawn to the tower by the hand winch.',
            'These carriers are drawn to the tower by the hand winch, whose pawl is checked first.',
          ],
        ],
      },
      {
        daysAgo: 61,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Ninety minutes shortened to sixty',
        edits: [['within ninety minutes', 'within sixty minutes']],
      },
      {
        daysAgo: 40,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Descender drawing replaced',
        edits: [
          [
            'hangs the descender into the eye above the door.',
            'hangs the descender into the outer eye above the door.',
          ],
        ],
      },
      {
        daysAgo: 21,
        by: 'author2',
        act: 'hold',
        reason: 'New descender, chapter 3',
        days: 7,
        saves: [[['2 descenders, 60 m rope', '3 descenders, 60 m rope']]],
      },
    ],
  },
  {
    number: 'OP-017',
    title: 'Handing over between shifts',
    kind: 'Operating procedure',
    subject: ['running the line', 'crew'],
    owner: 'controller',
    reviewInDays: 180,
    first: { daysAgo: 489, by: 'author', comment: 'First draft' },
    text: `# 1 Rule
No shift ends before the next has taken over. Taking over is an act of two people, face to face, at the control desk.
# 2 What is handed over
- The state of the line: open, closed, or closed with a reason.
- Carriers out of service, by number.
- Work permits that are open.
- What the weather service said last.
# 3 Walk
1. Both shift leaders walk the platform together.
1. They try the emergency stop at the lower station.
1. They read the running hours.
===
# 4 Signature
| Item | Leaving shift | Coming shift |
| State of the line | signs | signs |
| Open permits | signs | signs |
| Emergency stop tried | signs | signs |
The form is OP-033. It stays at the desk for a week and is then filed.`,
    events: [
      { daysAgo: 480, by: 'controller', act: 'publish', comment: 'First issue' },
      {
        daysAgo: 333,
        by: 'controller',
        act: 'checkIn',
        level: 'major',
        comment: 'Running hours are read',
        edits: [['They read the running hours.', 'They read the running hours of both drives.']],
      },
      {
        daysAgo: 214,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Radio batteries',
        edits: [
          [
            '- What the weather service said last.',
            '- What the weather service said last.\n- Charged radios, counted.',
          ],
        ],
      },
      { daysAgo: 200, by: 'controller', act: 'publish', comment: 'Radios are counted' },
      {
        daysAgo: 198,
        by: 'controller',
        act: 'distribute',
        people: ['reader', 'author2', 'approver', 'auditor'],
      },
      { daysAgo: 196, by: 'author2', act: 'read', version: '3.0' },
      { daysAgo: 191, by: 'approver', act: 'read', version: '3.0' },
      {
        daysAgo: 26,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Handing over by telephone ruled out',
        edits: [['at the control desk.', 'at the control desk. A handing over by telephone is none.']],
      },
    ],
  },
  {
    number: 'OP-020',
    title: 'Closing for lightning',
    kind: 'Operating procedure',
    subject: ['weather'],
    owner: 'author',
    reviewInDays: 71,
    own: { Section: ['Line'], 'Line closed': true },
    first: { daysAgo: 420, by: 'author', comment: 'First draft' },
    text: `# 1 Signs
The line is closed when the warning service reports lightning within 15 km, or when thunder follows a flash within thirty seconds.
# 2 Closing
1. Stop boarding at both stations.
1. Bring the carriers in at the highest speed the wind allows.
1. Earth the haul rope at the lower station.
1. Leave the platform.
# 3 Distances
| Distance | What is done |
| 30 to 15 km | Boarding goes on, the crew stands by |
| 15 to 8 km | Boarding stops |
| under 8 km | Nobody on the platform |
===
# 4 Opening again
Thirty minutes after the last thunder, and after the warning has been taken back.`,
    events: [
      { daysAgo: 405, by: 'controller', act: 'publish', comment: 'First issue' },
      {
        daysAgo: 64,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Distances of the warning service',
        edits: [
          ['within 15 km, or', 'within 20 km, or'],
          ['| 30 to 15 km |', '| 30 to 20 km |'],
          ['| 15 to 8 km |', '| 20 to 8 km |'],
        ],
      },
      {
        daysAgo: 18,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Earthing before the platform is left',
        edits: [
          [
            'Earth the haul rope at the lower station.',
            'Earth the haul rope at the lower station and hang out the sign.',
          ],
        ],
      },
    ],
  },
  {
    number: 'OP-022',
    title: 'Night running with reduced crew',
    kind: 'Operating procedure',
    subject: ['running the line', 'crew'],
    owner: 'author2',
    reviewInDays: 300,
    own: { Section: ['Stations', 'Crest'], 'Line closed': false },
    first: { daysAgo: 52, by: 'author2', comment: 'First draft for the winter season' },
    text: `# 1 Crew
From 20:00 to 23:00 the line is run by three people: one at the desk, one on each platform.
# 2 Limits
Half speed. Every second carrier only. No goods.
# 3 Lights
| Place | Light | Checked |
| Lower station | all | 19:30 |
| Towers | obstacle lights | 19:45 |
| Upper station | all | 19:30 |
===
# 4 If one is missing
With two people the line is not run at night.`,
    events: [
      {
        daysAgo: 38,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Platform crew may not leave',
        edits: [['one on each platform.', 'one on each platform, who may not leave it.']],
      },
      {
        daysAgo: 9,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Third of speed at Tower 6',
        edits: [['Half speed.', 'Half speed, a third between Tower 5 and Tower 6.']],
      },
    ],
  },
  {
    number: 'OP-024',
    title: 'Daily carrier grip inspection',
    kind: 'Inspection checklist',
    subject: ['inspection'],
    owner: 'author',
    reviewInDays: 12,
    own: { Section: ['Carriers'], 'Line closed': true, Binder: 'Workshop' },
    first: { daysAgo: 533, by: 'author', comment: 'First draft' },
    text: `# 1 Every morning
Each grip is looked at before the first loaded carrier. One person looks, another writes.
# 2 Points
| Point | What is looked for | Measure |
| Jaw | wear, cracks | 3 mm at most |
| Spring | broken coil | none |
| Roller | turns by hand | freely |
| Lever | closes fully | click heard |
# 3 What is done with a finding
1. The carrier is taken off the line.
1. The grip gets the red tag.
1. The workshop is told by telephone, not by note.
===
# 4 Week and month
- Weekly: the jaw force of five grips is measured.
- Monthly: every grip is measured.`,
    events: [
      { daysAgo: 520, by: 'controller', act: 'publish', comment: 'First issue' },
      {
        daysAgo: 447,
        by: 'author',
        act: 'checkIn',
        level: 'major',
        comment: 'Lever must click',
        edits: [
          [
            '| Lever | closes fully | click heard |',
            '| Lever | closes fully, click heard twice | both sides |',
          ],
        ],
      },
      {
        daysAgo: 392,
        by: 'author2',
        act: 'checkIn',
        level: 'major',
        comment: 'Roller by hand on both sides',
        edits: [['| Roller | turns by hand |', '| Roller | turns by hand, both sides |']],
      },
      {
        daysAgo: 318,
        by: 'author',
        act: 'checkIn',
        level: 'major',
        comment: 'Red tag numbered',
        edits: [['The grip gets the red tag.', 'The grip gets a numbered red tag.']],
      },
      {
        daysAgo: 240,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Jaw measure from the maker',
        edits: [['| 3 mm at most |', '| 2.5 mm at most |']],
      },
      { daysAgo: 233, by: 'controller', act: 'publish', comment: 'Jaw measure from the maker' },
      {
        daysAgo: 140,
        by: 'author2',
        act: 'checkIn',
        level: 'major',
        comment: 'Ten grips a week',
        edits: [['the jaw force of five grips', 'the jaw force of ten grips']],
      },
      {
        daysAgo: 58,
        by: 'author',
        act: 'checkIn',
        level: 'major',
        comment: 'Two signatures',
        edits: [['One person looks, another writes.', 'One person looks, another writes, both sign.']],
      },
    ],
  },
  {
    number: 'OP-025',
    title: 'Snow on the cabin roof',
    kind: 'Operating procedure',
    subject: ['weather'],
    owner: 'author2',
    reviewInDays: 130,
    own: { Section: ['Carriers'], 'Line closed': false },
    first: { daysAgo: 384, by: 'author2', comment: 'First draft' },
    text: `# 1 Load
More than 20 cm of fresh snow, or 8 cm of wet snow, on a cabin roof is taken off before the cabin runs.
# 2 Clearing
1. Stop the cabin in the station and secure it.
1. Clear from the side with the long brush.
1. Nobody climbs onto a roof.
# 3 Loads
| Snow | Depth | Load on the roof |
| dry | 20 cm | 40 kg |
| wet | 8 cm | 55 kg |
===
# 4 Record
Cabins cleared, by number, in the shift record.`,
    events: [
      { daysAgo: 371, by: 'controller', act: 'publish', comment: 'First issue' },
      {
        daysAgo: 352,
        by: 'author2',
        act: 'checkIn',
        level: 'minor',
        comment: 'Wet snow weighed',
        edits: [['| wet | 8 cm | 55 kg |', '| wet | 8 cm | 62 kg |']],
      },
      { daysAgo: 345, by: 'controller', act: 'publish', comment: 'Wet snow weighed' },
      {
        daysAgo: 29,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Long brush at both stations',
        edits: [['with the long brush.', 'with the long brush that hangs at both stations.']],
      },
    ],
  },
  {
    number: 'OP-028',
    title: 'Radio silence and blocked channels',
    kind: 'Operating procedure',
    subject: ['crew'],
    owner: 'controller',
    reviewInDays: 205,
    first: { daysAgo: 300, by: 'author', comment: 'First draft' },
    text: `# 1 No answer
A station that does not answer twice within a minute counts as silent. The line is stopped.
# 2 Second way
1. Try channel 4.
1. Try the line telephone.
1. Send somebody.
# 3 Channels
| Channel | Use |
| 2 | running |
| 4 | spare |
| 7 | rescue only |
===
# 4 Blocked
A channel blocked by a key held down is left; everybody goes to the next without being told.`,
    events: [
      { daysAgo: 286, by: 'controller', act: 'publish', comment: 'First issue' },
      {
        daysAgo: 190,
        by: 'author2',
        act: 'checkIn',
        level: 'major',
        comment: 'Line goes on at creeping speed',
        edits: [['The line is stopped.', 'The line goes on at creeping speed.']],
      },
      {
        daysAgo: 176,
        by: 'controller',
        act: 'restore',
        from: '1.0',
        level: 'major',
        comment: 'A silent station stops the line, as before',
      },
      {
        daysAgo: 47,
        by: 'author',
        act: 'checkIn',
        level: 'minor',
        comment: 'Channel 5 for the workshop',
        edits: [['| 4 | spare |', '| 4 | spare |\n| 5 | workshop |']],
      },
    ],
  },
  {
    number: 'OP-031',
    title: 'Passenger with a bicycle',
    kind: 'Operating procedure',
    subject: ['passengers'],
    owner: 'author2',
    reviewInDays: 250,
    first: { daysAgo: 75, by: 'author2', comment: 'First draft for the bicycle racks' },
    text: `# 1 Where
Bicycles ride on the rack outside the door, one a carrier, front wheel up.
# 2 Boarding
1. The platform crew hangs the bicycle, not the passenger.
1. The strap is drawn until the wheel does not turn.
1. The next carrier is sent without a bicycle.
# 3 Not taken
| What | Why |
| Bicycles with a trailer | longer than the rack |
| Bicycles over 28 kg | the rack is proved for 30 kg |
===
# 4 Wind
Above 12 m/s no bicycles.`,
    events: [{ daysAgo: 66, by: 'controller', act: 'publish', comment: 'First issue' }],
  },
  {
    number: 'OP-033',
    title: 'Shift handover form',
    kind: 'Shift form',
    subject: ['crew', 'forms'],
    owner: 'controller',
    reviewInDays: 20,
    first: { daysAgo: 476, by: 'controller', comment: 'Form for OP-017' },
    text: `# Handover
| Date | Leaving shift leader | Coming shift leader |
| | | |
# State of the line
| Item | State | Remark |
| Line | open / closed | |
| Carriers out of service | number | |
| Open permits | number | |
| Emergency stop tried | yes / no | |
| Radios, charged | number | |
===
# Notes for the coming shift
Write what the next shift must know and what it must not forget.
- Weather
- Visitors
- Deliveries`,
    events: [
      { daysAgo: 470, by: 'controller', act: 'publish', comment: 'First issue' },
      { daysAgo: 469, by: 'controller', act: 'template', type: 'Shift form' },
      {
        daysAgo: 330,
        by: 'controller',
        act: 'checkIn',
        level: 'major',
        comment: 'Running hours added',
        edits: [
          [
            '| Emergency stop tried | yes / no | |',
            '| Emergency stop tried | yes / no | |\n| Running hours, both drives | hours | |',
          ],
        ],
      },
      {
        daysAgo: 199,
        by: 'controller',
        act: 'fields',
        fields: { subject: ['crew', 'forms', 'running the line'] },
        comment: 'Filed under running the line too',
      },
      { daysAgo: 197, by: 'controller', act: 'publish', comment: 'Filed under running the line too' },
    ],
  },
];
