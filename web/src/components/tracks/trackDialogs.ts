import { Input, Modal } from 'ant-design-vue'
import { h } from 'vue'
import { attempt } from '../../composables/page/attempt'
import type { ListedTrack } from '../../library/trackTable'

/** Ask for the names of a track, and give them to it. */
export function askNames(track: ListedTrack, use: (title: string, artist: string) => Promise<unknown>) {
  let { title, artist } = track
  const field = (name: string, value: string, put: (text: string) => void) =>
    h(Input, {
      class: 'names-field',
      defaultValue: value,
      maxlength: 300,
      placeholder: name,
      'aria-label': name,
      onChange: (e: Event) => put((e.target as HTMLInputElement).value),
    })
  Modal.confirm({
    title: 'Names of the track',
    content: () =>
      h('div', [field('Title', title, (t) => (title = t)), field('Artist', artist, (t) => (artist = t))]),
    okText: 'Rename',
    onOk: () => attempt(() => use(title.trim() || track.title, artist.trim())),
  })
}

/** Ask whether tracks are to go, and let them go. */
export function askRemoval(some: ListedTrack[], remove: () => Promise<unknown>) {
  if (!some.length) return
  const what = some.length === 1 ? `‘${some[0]!.title}’` : `${some.length} tracks`
  Modal.confirm({
    title: `Remove ${what} from the library?`,
    content:
      'The copies that the library keeps are deleted; files that stayed in their own place are not touched.',
    okText: 'Remove',
    okButtonProps: { danger: true },
    onOk: () => attempt(remove),
  })
}
