/** What the audio thread has and a page has not (Web Audio API 1.1, AudioWorkletGlobalScope). */
declare abstract class AudioWorkletProcessor {
  readonly port: MessagePort
  abstract process(inputs: Float32Array[][], outputs: Float32Array[][]): boolean
}
declare function registerProcessor(name: string, type: new () => AudioWorkletProcessor): void
declare const sampleRate: number
declare const currentTime: number
