import { frames } from './stream'
import meterUrl from './worklets/meter.ts?worker&url'
import playerUrl from './worklets/player.ts?worker&url'
import type { MeterReport, PlayerReport, ToPlayer } from './worklets/messages'

export const RATE = 44_100
const READ_AHEAD = 60 * RATE

export interface PlayOptions {
  url: string
  loop: boolean
  /** Whether all frames are kept, for seeking back and looping; long listening lets go of what has passed. */
  keepAll: boolean
}

/**
 * Plays one stream at a time through an audio worklet. A new `play` ends the one before it.
 */
export class Player {
  private context?: AudioContext
  private node?: AudioWorkletNode
  private volume?: GainNode
  private session = 0
  private latest = 0
  private coming?: { session: number; abort: AbortController; taken: () => void }
  private abort?: AbortController
  private last?: PlayerReport
  /** What was last asked for, which a stream that has yet to begin begins with. */
  private wanted = { running: true, loop: false }
  level = 1

  constructor(
    private readonly onReport: (report: PlayerReport) => void,
    private readonly onError: (error: Error) => void,
    private readonly onMeter: (report: MeterReport) => void,
  ) {}

  /** Begin to play a stream; resolves when its first frames are handed over. */
  async play(options: PlayOptions): Promise<void> {
    this.abort?.abort()
    this.coming?.abort.abort()
    this.coming = undefined
    const abort = (this.abort = new AbortController())
    const session = (this.session = this.latest += 1)
    this.wanted = { running: true, loop: options.loop }
    try {
      await this.ready()
      if (session !== this.session) return
      this.post({ type: 'begin', session, keepAll: options.keepAll, ...this.wanted })
      const stream = frames(options.url, abort.signal)
      const first = await stream.next()
      this.hand(session, first.value)
      void this.feed(session, stream, options.keepAll)
    } catch (error) {
      if (session === this.session) this.onError(error as Error)
    }
  }

  /**
   * Make a stream ready to take over from the one that plays, at one of its frames, or as soon after that as it is there.
   * `taken` is told when it has.
   */
  async follow(options: PlayOptions, at: number, taken: () => void): Promise<void> {
    this.coming?.abort.abort()
    const abort = new AbortController()
    const session = (this.latest += 1)
    this.coming = { session, abort, taken }
    try {
      const stream = frames(options.url, abort.signal)
      this.post({ type: 'ready', session, at, loop: options.loop, keepAll: options.keepAll })
      const first = await stream.next()
      this.hand(session, first.value)
      void this.feed(session, stream, options.keepAll)
    } catch (error) {
      if (session === this.coming?.session && !abort.signal.aborted) this.onError(error as Error)
    }
  }

  /** Nothing is to take over any more. */
  unfollow(): void {
    this.coming?.abort.abort()
    this.coming = undefined
    this.post({ type: 'alone', session: this.session })
  }

  /** The stream that was made ready plays now. */
  private promoted(session: number) {
    if (!this.coming || this.coming.session !== session) return
    const { abort, taken } = this.coming
    this.abort?.abort()
    this.abort = abort
    this.session = session
    this.coming = undefined
    taken()
  }

  private isWanted(session: number): boolean {
    return session === this.session || session === this.coming?.session
  }

  /** Go on or hold. */
  run(running: boolean): void {
    this.wanted.running = running
    void this.context?.resume()
    this.post({ type: 'run', session: this.session, running })
  }

  /** Go to a frame that has arrived. */
  seek(frame: number): void {
    this.post({ type: 'seek', session: this.session, frame })
  }

  setLoop(loop: boolean): void {
    this.wanted.loop = loop
    this.post({ type: 'loop', session: this.session, loop })
  }

  setLevel(level: number): void {
    this.level = level
    if (this.volume && this.context) this.volume.gain.setTargetAtTime(level, this.context.currentTime, 0.01)
  }

  /** Seconds from a frame's leaving the worklet to its being heard. */
  get latency(): number {
    return this.context ? this.context.baseLatency + this.context.outputLatency : 0
  }

  /** The sound's own clock in seconds; it stands still where the sound does. */
  get time(): number {
    return this.context?.currentTime ?? 0
  }

  /** The loudest sample of the last few milliseconds that went to the speakers; for tests and the level light. */
  peak(): number {
    if (!this.analyser) return 0
    const samples = new Float32Array(this.analyser.fftSize)
    this.analyser.getFloatTimeDomainData(samples)
    return samples.reduce((most, s) => Math.max(most, Math.abs(s)), 0)
  }

  private analyser?: AnalyserNode

  private making?: Promise<AudioWorkletNode>

  /** The way to the speakers, made once: who presses twice while it is made waits for the same. */
  private async ready(): Promise<AudioWorkletNode> {
    this.making ??= this.make()
    try {
      const node = await this.making
      await this.context?.resume()
      return node
    } catch (error) {
      this.making = undefined
      throw error
    }
  }

  private async make(): Promise<AudioWorkletNode> {
    const context = (this.context = new AudioContext({ sampleRate: RATE, latencyHint: 'interactive' }))
    await Promise.all([playerUrl, meterUrl].map((url) => context.audioWorklet.addModule(url)))
    const node = (this.node = new AudioWorkletNode(context, 'player', { outputChannelCount: [2] }))
    node.port.onmessage = ({ data }: MessageEvent<PlayerReport>) => {
      if (data.session !== this.session) this.promoted(data.session)
      if (data.session !== this.session) return
      this.last = data
      this.onReport(data)
    }
    this.volume = new GainNode(context, { gain: this.level })
    this.analyser = new AnalyserNode(context, { fftSize: 2048 })
    node.connect(this.volume).connect(context.destination)
    this.volume.connect(this.analyser)
    // Before the listening level, which is no part of the mix.
    const meter = new AudioWorkletNode(context, 'meter', { numberOfOutputs: 0 })
    meter.port.onmessage = ({ data }: MessageEvent<MeterReport>) => this.onMeter(data)
    node.connect(meter)
    return node
  }

  /** Pass frames on as they arrive; a long stream waits while it is far enough ahead. */
  private async feed(session: number, stream: AsyncGenerator<Float32Array>, keepAll: boolean): Promise<void> {
    try {
      for await (const chunk of stream) {
        if (!this.isWanted(session)) return
        this.hand(session, chunk)
        while (!keepAll && this.isFarAhead() && session === this.session) {
          await new Promise((resolve) => setTimeout(resolve, 250))
        }
      }
      this.post({ type: 'complete', session })
    } catch (error) {
      if (this.isWanted(session)) this.onError(error as Error)
    }
  }

  private isFarAhead(): boolean {
    return this.last !== undefined && this.last.end - this.last.position > READ_AHEAD
  }

  private hand(session: number, chunk: Float32Array | undefined): void {
    if (chunk) this.post({ type: 'frames', session, frames: chunk }, [chunk.buffer])
  }

  private post(message: ToPlayer, transferred: Transferable[] = []): void {
    this.node?.port.postMessage(message, transferred)
  }
}
