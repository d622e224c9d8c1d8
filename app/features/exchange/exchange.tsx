import { useEffect, useRef, useState } from 'react'
import { channelOutput } from '#core/document/address'
import { channelsOf } from '#core/document/channels'
import { findLayer } from '#core/document/edits/layers'
import type { GoingOut } from '#core/exchange/exchanged'
import type { CameBack } from '#core/exchange/take-back'
import type { SentWanted } from '../../../runtime/browser/exchange'
import { useActions, useDocument, useMaterial, useView } from '../../session/material'
import { Button } from '../../ui/button'
import { Segments } from '../../ui/choice'
import { Modal } from '../../ui/modal'
import { saveFile } from '../../ui/save-file'
import { counted, progressInWords } from '../../ui/words'

const SIZES = (['512', '1024', '2048', '4096'] as const).map((value) => ({ value, word: value }))
const FORMS = [
  { value: 'layers', word: 'Its layers (OpenRaster)' },
  { value: 'picture', word: 'One picture (PNG)' },
] as const

/** The dialogs by which pictures go to an image editor and come back. */
export function ExchangeDialogs() {
  const { view, evaluation } = useMaterial()
  const exchange = useView((one) => one.exchange)
  const close = (): void => {
    void evaluation.endExchange()
    view.setState({ exchange: null })
  }
  if (!exchange) return null
  return 'out' in exchange ? (
    <GoOut out={exchange.out} onClose={close} />
  ) : (
    <ComeBack given={exchange.back} onClose={close} />
  )
}

function GoOut({ out, onClose }: { out: GoingOut; onClose(): void }) {
  const { evaluation } = useMaterial()
  const document = useDocument()
  const [width, setWidth] = useState<(typeof SIZES)[number]['value']>('1024')
  const channel = 'layers' in out && out.layers.kind === 'channel' ? out.layers.channel : null
  const [form, setForm] = useState<'layers' | 'picture'>('layers' in out ? 'layers' : 'picture')
  const [progress, setProgress] = useState<number | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [notes, setNotes] = useState<readonly string[] | null>(null)
  const save = async (): Promise<void> => {
    setProblem(null)
    setProgress(0)
    const title = channelsOf(document).find(({ id }) => id === channel)?.title ?? ''
    const wanted: GoingOut = form === 'picture' && channel !== null ? { picture: channelOutput(channel), title } : out
    const sent = await evaluation.writeForEditor(
      document,
      { ...wanted, width: Number(width) } as SentWanted,
      setProgress,
    )
    setProgress(null)
    if ('error' in sent) return setProblem(sent.cancelled ? null : sent.error)
    const type = sent.name.endsWith('.ora') ? 'image/openraster' : 'image/png'
    saveFile(sent.name, new Uint8Array(sent.bytes), type)
    setNotes(sent.notes)
  }
  return (
    <Modal
      open
      onOpenChange={(open) => !open && onClose()}
      title={`Out to an image editor: ${wordsFor(document, out)}`}
      about="Paint on it, keep the names of its layers and of the file, and save. Then drop the file on this page: what was painted becomes an image in its place."
    >
      <div className="flex flex-col gap-3">
        {channel !== null && (
          <Row word="Form">
            <Segments label="Form" value={form} options={FORMS} onChange={(next) => setForm(next)} />
          </Row>
        )}
        <Row word="Width">
          <Segments label="Width in texels" value={width} options={SIZES} onChange={(next) => setWidth(next)} />
          <span className="text-ink-soft">texels</span>
        </Row>
        {problem && <p role="alert">■ {problem}</p>}
        {notes && (
          <div role="status">
            <p>● Saved.</p>
            {notes.map((note) => (
              <p key={note} className="text-ink-soft">
                ▲ {note}
              </p>
            ))}
          </div>
        )}
        <div className="flex items-center justify-end gap-2">
          {progress !== null && (
            <span role="status" className="mr-auto font-mono">
              {progressInWords(progress)}
            </span>
          )}
          <Button onClick={onClose}>{progress === null ? 'Close' : 'Cancel'}</Button>
          <Button variant="main" disabled={progress !== null} onClick={() => void save()}>
            Save the file
          </Button>
        </div>
      </div>
    </Modal>
  )
}

function Row({ word, children }: { word: string; children: React.ReactNode }) {
  return (
    <div className="flex items-center gap-2">
      <span className="w-12 text-ink-soft">{word}</span>
      {children}
    </div>
  )
}

const wordsFor = (document: ReturnType<typeof useDocument>, out: GoingOut): string =>
  'picture' in out
    ? out.title
    : out.layers.kind === 'channel'
      ? (channelsOf(document).find(({ id }) => 'channel' in out.layers && id === out.layers.channel)?.title ?? '')
      : (findLayer(document, out.layers.layer)?.name ?? '')

function ComeBack({ given, onClose }: { given: File | null; onClose(): void }) {
  const { evaluation } = useMaterial()
  const actions = useActions()
  const document = useDocument()
  const [file, setFile] = useState(given)
  const [found, setFound] = useState<readonly CameBack[] | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const [progress, setProgress] = useState(0)
  /** Those that changed here too, and are to be taken all the same. */
  const [over, setOver] = useState<ReadonlySet<CameBack>>(new Set())
  // It is compared with what is here as it is read; an edit afterwards does not begin it anew.
  const now = useRef(document)
  useEffect(() => {
    if (!file) return
    let wanted = true
    void file.arrayBuffer().then(async (bytes) => {
      const back = await evaluation.readFromEditor(
        now.current,
        { name: file.name, bytes: new Uint8Array(bytes) },
        setProgress,
      )
      if (!wanted) return
      if ('error' in back) setProblem(back.error)
      else setFound(back.back)
    })
    return () => {
      wanted = false
    }
  }, [file, evaluation])
  const taken = (found ?? []).filter((one) => one.state === 'painted' || (one.state === 'clash' && over.has(one)))
  const takeIn = async (): Promise<void> => {
    setBusy(true)
    if (await actions.putBack(taken)) onClose()
    else setBusy(false)
  }
  return (
    <Modal
      open
      onOpenChange={(open) => !open && onClose()}
      wide
      title="What came back from an image editor"
      about="What was painted on becomes an image that its cell or mask reads from now on; the nodes before it stay in the graph."
    >
      {!file && (
        <input
          type="file"
          accept=".ora,.png"
          aria-label="File from an image editor"
          onChange={({ target }) => setFile(target.files?.[0] ?? null)}
        />
      )}
      {file && !found && !problem && (
        <p role="status">
          ◐ Comparing {file.name} with what is here: {progressInWords(progress)}
        </p>
      )}
      {problem && <p role="alert">■ {problem}</p>}
      {found && (
        <ul aria-label="Pictures that came back" className="max-h-[50vh] divide-y divide-rule overflow-auto">
          {/* The uppermost first, as in the sheet. */}
          {[...found].reverse().map((one, i) => (
            <li key={i} className="flex items-center gap-3 py-2">
              <span className="min-w-0 flex-1 truncate font-semibold">{one.title}</span>
              <span className="text-ink-soft">{stateInWords(one)}</span>
              {one.state === 'clash' && (
                <Segments
                  label={`${one.title}: which one`}
                  value={over.has(one) ? 'theirs' : 'mine'}
                  options={[
                    { value: 'mine', word: 'Keep what is here' },
                    { value: 'theirs', word: 'Take what came back' },
                  ]}
                  onChange={(which) => {
                    const next = new Set(over)
                    if (which === 'theirs') next.add(one)
                    else next.delete(one)
                    setOver(next)
                  }}
                />
              )}
            </li>
          ))}
        </ul>
      )}
      {taken.some(({ opacity }) => opacity) && (
        <p className="mt-2 text-ink-soft">
          Opacity becomes the mask of its layer, for all channels; the entries before it stay, switched off.
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>{taken.length > 0 ? 'Cancel' : 'Close'}</Button>
        <Button variant="main" disabled={taken.length === 0 || busy} onClick={() => void takeIn()}>
          {taken.length > 0 ? `Take in ${counted(taken.length, 'picture')}` : 'Take in'}
        </Button>
      </div>
    </Modal>
  )
}

function stateInWords({ state, changed, values, opacity }: CameBack): string {
  const what = values && opacity ? 'values and opacity' : opacity ? 'opacity' : 'values'
  const share = changed < 0.01 ? 'less than 1 %' : `${Math.round(changed * 100)} %`
  switch (state) {
    case 'same':
      return '● as it is here'
    case 'painted':
      return `● painted on: ${what}, ${share}`
    case 'clash':
      return '▲ differs, and was changed here since it went out'
    case 'gone':
      return '▲ what it was of is no longer here'
  }
}
