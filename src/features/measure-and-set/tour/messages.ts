/** Texts of the tour over the desk. */
export const tourMessages = {
  tour: 'Tour',
  take: 'Take the tour',
  offer: 'New here? Five steps show you this page.',
  notNow: 'No, thanks',
  at: (step: number, of: number) => `${step} of ${of}`,
  next: 'Next',
  back: 'Back',
  done: 'Done',
  leave: 'Leave the tour',
  steps: {
    verdict: {
      title: 'The verdict',
      text: 'How the programme stands against the spec: ◆ inside, ▲ over, ▼ under. Click what misses, and what mends it is done or opened.',
    },
    trace: {
      title: 'The trace',
      text: 'The whole programme along time, before and after. Space plays what will be written. Draw across it to make a span.',
    },
    rule: {
      title: 'The rule',
      text: 'The spec is above, the programme below. Drag the slide, type a gain, or press T to meet the target.',
    },
    treatment: {
      title: 'The treatment',
      text: 'What is done to the programme, step by step. Nothing is limited, trimmed or changed that you did not set, and all of it can be undone.',
    },
    'hand-over': {
      title: 'Hand over',
      text: 'Add a delivery here and write it. The written file is measured again, and a certificate says what it reads.',
    },
  },
};
