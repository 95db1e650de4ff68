import { ref } from 'vue'
import { listenToMidi } from '../../sound/controller'

/** Whether the browser has a MIDI controller for us; it is asked only when somebody wants that. */
export const midi = ref<'unasked' | 'there' | 'none'>('unasked')
export const askForMidi = async () => void (midi.value = (await listenToMidi()) ? 'there' : 'none')
