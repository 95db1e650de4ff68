import { Modal } from 'ant-design-vue'
import { attempt } from '../../composables/page/attempt'
import type { ListedTrack } from '../../library/trackTable'
import { askTexts } from '../shared/askTexts'

/** Ask for the names of a track, and give them to it. */
export function askNames(track: ListedTrack, use: (title: string, artist: string) => Promise<unknown>) {
  askTexts({
    title: 'Names of the track',
    ok: 'Rename',
    fields: [
      {
        label: 'Title',
        value: track.title,
        maxLength: 300,
        placeholder: 'Title',
        needed: 'A track needs a title.',
      },
      { label: 'Artist', value: track.artist, maxLength: 300, placeholder: 'Artist' },
    ],
    use: ([title, artist]) => attempt(() => use(title!, artist!)),
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
