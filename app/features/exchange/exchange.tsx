import { useEffect, useRef, useState } from 'react'
import { channelOutput } from '#core/document/address'
import type { MaterialDocument } from '#core/document/document'
import { findLayer } from '#core/document/edits/layers'
import type { ExportSubject } from '#core/exchange/exported-pictures'
import { channelOf } from '#core/exchange/exported-pictures'
import type { ImportedPicture } from '#core/exchange/compare-import'
import type { ExportRequest } from '../../../runtime/browser/exchange'
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

/** The dialogs that export to an image editor and import from it. */
export function ExchangeDialogs() {
  const { view, evaluation } = useMaterial()
  const exchange = useView((one) => one.exchange)
  const close = (): void => {
    void evaluation.endExchange()
    view.setState({ exchange: null })
  }
  if (!exchange) return null
  return 'export' in exchange ? (
    <ExportDialog subject={exchange.export} onClose={close} />
  ) : (
    <ImportDialog given={exchange.import} onClose={close} />
  )
}

function ExportDialog({ subject, onClose }: { subject: ExportSubject; onClose(): void }) {
  const { evaluation } = useMaterial()
  const document = useDocument()
  const [width, setWidth] = useState<(typeof SIZES)[number]['value']>('1024')
  const channel = 'layers' in subject && subject.layers.kind === 'channel' ? subject.layers.channel : null
  const [form, setForm] = useState<'layers' | 'picture'>('layers' in subject ? 'layers' : 'picture')
  const [progress, setProgress] = useState<number | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [notes, setNotes] = useState<readonly string[] | null>(null)
  const save = async (): Promise<void> => {
    setProblem(null)
    setProgress(0)
    const wanted: ExportSubject =
      form === 'picture' && channel !== null
        ? { picture: channelOutput(channel), title: wordsFor(document, subject) }
        : subject
    const sent = await evaluation.exportForEditor(
      document,
      { ...wanted, width: Number(width) } as ExportRequest,
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
      title={`Export to an image editor: ${wordsFor(document, subject)}`}
      about="Paint on it, but keep the names of its layers and of the file. Then drop the saved file on this page to import what changed."
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
            <p>● Exported.</p>
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
            Export
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

const wordsFor = (document: MaterialDocument, subject: ExportSubject): string =>
  'picture' in subject
    ? subject.title
    : subject.layers.kind === 'channel'
      ? (channelOf(document, channelOutput(subject.layers.channel))?.title ?? '')
      : (findLayer(document, subject.layers.layer)?.name ?? '')

function ImportDialog({ given, onClose }: { given: File | null; onClose(): void }) {
  const { evaluation } = useMaterial()
  const actions = useActions()
  const document = useDocument()
  const [file, setFile] = useState(given)
  const [found, setFound] = useState<readonly ImportedPicture[] | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [busy, setBusy] = useState(false)
  const [progress, setProgress] = useState(0)
  /** Conflicts in which the imported one is used. */
  const [over, setOver] = useState<ReadonlySet<ImportedPicture>>(new Set())
  // With the document as it is when the dialog opens: edits of others do not compare it again.
  const compared = useRef(document)
  useEffect(() => {
    if (!file) return
    let wanted = true
    void file.arrayBuffer().then(async (bytes) => {
      const answer = await evaluation.importFromEditor(
        compared.current,
        { name: file.name, bytes: new Uint8Array(bytes) },
        setProgress,
      )
      if (!wanted) return
      if ('error' in answer) setProblem(answer.error)
      else setFound(answer.pictures)
    })
    return () => {
      wanted = false
    }
  }, [file, evaluation])
  const taken = (found ?? []).filter((one) => one.state === 'changed' || (one.state === 'conflict' && over.has(one)))
  const apply = async (): Promise<void> => {
    setBusy(true)
    if (await actions.applyImport(taken)) onClose()
    else setBusy(false)
  }
  return (
    <Modal
      open
      onOpenChange={(open) => !open && onClose()}
      wide
      title="Import from an image editor"
      about="What changed becomes an image that its cell or mask reads; the nodes it read before stay in the graph."
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
          ◐ Comparing {file.name} with the material: {progressInWords(progress)}
        </p>
      )}
      {problem && <p role="alert">■ {problem}</p>}
      {found && (
        <ul aria-label="Pictures in the file" className="max-h-[50vh] divide-y divide-rule overflow-auto">
          {/* The uppermost first, as in the sheet. */}
          {[...found].reverse().map((one, i) => (
            <li key={i} className="flex items-center gap-3 py-2">
              <span className="min-w-0 flex-1 truncate font-semibold">{one.title}</span>
              <span className="text-ink-soft">{stateInWords(one)}</span>
              {one.state === 'conflict' && (
                <Segments
                  label={`${one.title}: which one`}
                  value={over.has(one) ? 'imported' : 'current'}
                  options={[
                    { value: 'current', word: 'Keep the current one' },
                    { value: 'imported', word: 'Use the imported one' },
                  ]}
                  onChange={(which) => {
                    const next = new Set(over)
                    if (which === 'imported') next.add(one)
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
          Opacity becomes the mask of its layer, for all channels; its other entries are switched off.
        </p>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>{taken.length > 0 ? 'Cancel' : 'Close'}</Button>
        <Button variant="main" disabled={taken.length === 0 || busy} onClick={() => void apply()}>
          {taken.length > 0 ? `Import ${counted(taken.length, 'picture')}` : 'Import'}
        </Button>
      </div>
    </Modal>
  )
}

function stateInWords({ state, changed, values, opacity }: ImportedPicture): string {
  const what = values && opacity ? 'values and opacity' : opacity ? 'opacity' : 'values'
  const share = changed < 0.01 ? 'less than 1 %' : `${Math.round(changed * 100)} %`
  switch (state) {
    case 'unchanged':
      return '● unchanged'
    case 'changed':
      return `● changed: ${what}, ${share}`
    case 'conflict':
      return '▲ changed, and so was the material since the export'
    case 'missing':
      return '▲ its layer or cell no longer exists'
  }
}
