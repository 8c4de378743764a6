import { zipSync } from 'fflate';
import { Refused } from '../refused.ts';
import { docxOf } from '../testing/files.ts';
import { Readers } from './readers.ts';

const word = 'application/vnd.openxmlformats-officedocument.wordprocessingml.document';

test('why a content is not read is found out once, whoever asks', async () => {
  const readers = new Readers();
  try {
    let asked = 0;
    const bytes = async (): Promise<Buffer> => {
      asked += 1;
      return Buffer.from(zipSync({}));
    };
    for (let time = 0; time < 3; time += 1)
      await expect(
        readers.read({ sha256: 'broken', mediaType: word, size: 22 }, bytes),
      ).rejects.toBeInstanceOf(Refused);
    expect(asked).toBe(1);
    const content = { sha256: 'sound', mediaType: word, size: 1000 };
    const sound = { content, fields: {} as never, bytes: async () => docxOf('Words') };
    const broken = { ...sound, content: { ...content, sha256: 'broken' }, bytes };
    await expect(readers.compare(sound, broken)).rejects.toBeInstanceOf(Refused);
    expect(asked).toBe(1);
    // What is read is not mistaken for it.
    expect((await readers.read(content, sound.bytes)).blocks).toHaveLength(1);
  } finally {
    await readers.close();
  }
});
