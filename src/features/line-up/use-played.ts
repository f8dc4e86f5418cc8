import { useCallback, useEffect, useRef, useState } from 'react';

/** What is played: planar, and all there. */
interface Samples {
  sampleRateHz: number;
  channels: Float32Array[];
}

/** Plays samples that are all there, and says how far it is. What plays stops once there is something else to play. */
export function usePlayed(samples: Samples | undefined) {
  const context = useRef<AudioContext>(undefined);
  const source = useRef<AudioBufferSourceNode>(undefined);
  const [isPlaying, setIsPlaying] = useState(false);
  const [seconds, setSeconds] = useState(0);
  const stop = useCallback(() => {
    source.current?.stop();
    source.current = undefined;
    setIsPlaying(false);
  }, []);
  const play = useCallback(
    ({ channels, sampleRateHz }: Samples) => {
      stop();
      context.current ??= new AudioContext();
      const { current } = context;
      void current.resume();
      const buffer = current.createBuffer(channels.length, channels[0]?.length ?? 1, sampleRateHz);
      channels.forEach((own, channel) => {
        buffer.copyToChannel(Float32Array.from(own), channel);
      });
      const node = current.createBufferSource();
      node.buffer = buffer;
      node.connect(current.destination);
      node.onended = () => {
        if (source.current === node) stop();
      };
      const startedSeconds = current.currentTime;
      source.current = node;
      node.start();
      setIsPlaying(true);
      const tell = () => {
        if (source.current !== node) return;
        setSeconds(current.currentTime - startedSeconds);
        requestAnimationFrame(tell);
      };
      tell();
    },
    [stop],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: it stops because there is another one to play.
  useEffect(() => stop, [stop, samples]);
  useEffect(() => () => void context.current?.close(), []);
  return { isPlaying, seconds, play, stop };
}

/** One key, wherever one is on the page but for where text is typed. */
export function useKey(key: string, press: () => void): void {
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      const isTyping = event.target instanceof HTMLElement && event.target.closest('input, textarea, [role="dialog"]');
      if (isTyping || event.ctrlKey || event.metaKey || event.altKey || event.key.toLowerCase() !== key) return;
      event.preventDefault();
      press();
    };
    window.addEventListener('keydown', hear);
    return () => window.removeEventListener('keydown', hear);
  }, [key, press]);
}
