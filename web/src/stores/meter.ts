import { defineStore } from 'pinia'
import { ref } from 'vue'
import type { MeterReport } from '../sound/worklets/messages'

const SHORT_TERM = 30
const HOLD_MS = 2000
const FLOOR = -70

/** How loud what is heard is: short-term loudness (EBU Tech 3341: three seconds), and the true peak, held for a while. */
export const useMeter = defineStore('meter', () => {
  const shortTerm = ref<number>()
  const peak = ref<number>()
  let energies: number[] = []
  let heldUntil = 0

  function hear(report: MeterReport, now = performance.now()) {
    energies = [...energies.slice(1 - SHORT_TERM), report.energy]
    const mean = energies.reduce((a, b) => a + b, 0) / energies.length
    const level = -0.691 + 10 * Math.log10(Math.max(mean, 1e-12))
    shortTerm.value = level > FLOOR ? level : undefined
    const db = 20 * Math.log10(Math.max(report.peak, 1e-9))
    if (peak.value === undefined || db >= peak.value || now > heldUntil) {
      peak.value = db > FLOOR ? db : undefined
      heldUntil = now + HOLD_MS
    }
  }

  /** Something else is played. */
  function forget() {
    energies = []
    shortTerm.value = peak.value = undefined
  }

  return { shortTerm, peak, hear, forget }
})
