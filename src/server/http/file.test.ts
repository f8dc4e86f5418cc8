import { fileResponse } from './file';

const bytes = Uint8Array.from({ length: 100 }, (_, i) => i);
const served = {
  fileName: 'mix “final”.wav',
  mediaType: 'audio/wav',
  sizeBytes: bytes.length,
  stream: (part?: { start: number; end: number }) => (part ? bytes.slice(part.start, part.end + 1) : bytes),
};

async function asked(range?: string) {
  const headers: Record<string, string> = range === undefined ? {} : { range };
  const response = fileResponse(served, new Request('http://127.0.0.1/', { headers }));
  const body = [...new Uint8Array(await response.arrayBuffer())];
  return { status: response.status, range: response.headers.get('content-range'), body, headers: response.headers };
}

test('without a range it is the whole, and says that parts can be had', async () => {
  const { status, body, headers } = await asked();
  expect(status).toBe(200);
  expect(body).toEqual([...bytes]);
  expect(headers.get('accept-ranges')).toBe('bytes');
  expect(headers.get('content-disposition')).toBe("attachment; filename*=UTF-8''mix%20%E2%80%9Cfinal%E2%80%9D.wav");
});

// The examples of RFC 9110, 14.1.2 (from memory), for 100 bytes.
test.each([
  ['bytes=0-49', 0, 49],
  ['bytes=50-', 50, 99],
  ['bytes=-10', 90, 99],
  ['bytes=90-500', 90, 99],
  ['bytes=0-0', 0, 0],
])('%s is a part', async (range, start, end) => {
  const answer = await asked(range);
  expect(answer).toMatchObject({ status: 206, range: `bytes ${start}-${end}/100` });
  expect(answer.body).toEqual([...bytes.slice(start, end + 1)]);
  expect(answer.headers.get('content-length')).toBe(String(end - start + 1));
});

test.each(['bytes=100-', 'bytes=200-300'])('%s is not there', async (range) => {
  expect(await asked(range)).toMatchObject({ status: 416, range: 'bytes */100', body: [] });
});

test.each(['bytes=0-1,5-6', 'rubbish', 'lines=1-2', ''])('%j is answered with the whole', async (range) => {
  expect(await asked(range)).toMatchObject({ status: 200, range: null, body: [...bytes] });
});
