import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'

import { api } from '../../api/client'
import { useIsLead, useProject } from '../../api/project'
import type { LayerShown } from '../../api/schema'
import { Ask } from '../../parts/Ask'
import { Act, BadAct, ChoiceField, QuietAct } from '../../parts/controls'
import { useAct } from '../../parts/useAct'
import { Window } from '../../parts/Window'
import { Proposals } from './Proposals'
import { layerProposalsQuery, layersQuery } from './queries'

interface TakeOverProps {
  hues: ReadonlyMap<string, number>
  onClose: () => void
}

/** What stands in another layer taken into gold, sentence by sentence: which layer first. */
export function TakeOver({ hues, onClose }: TakeOverProps) {
  const project = useProject()
  const query = useQuery(layersQuery(project))
  const [layer, setLayer] = useState<LayerShown | null>(null)
  if (layer) return <Looked layer={layer} hues={hues} onClose={onClose} />
  return (
    <Window title="Take over what stands in a layer" onClose={onClose}>
      <Ask query={query}>{(layers) => <Choice layers={layers.filter(({ kind }) => kind !== 'gold')} onChoose={setLayer} onClose={onClose} />}</Ask>
    </Window>
  )
}

function Choice({ layers, onChoose, onClose }: { layers: readonly LayerShown[]; onChoose: (layer: LayerShown) => void; onClose: () => void }) {
  const project = useProject()
  const lead = useIsLead()
  const [id, setId] = useState(String((layers.find(({ kind }) => kind === 'proposed') ?? layers[0])?.id ?? ''))
  const chosen = layers.find((layer) => String(layer.id) === id)
  const remove = useAct((gone: LayerShown) => api.DELETE('/api/projects/{project}/desk/layers/{layer_id}', { params: { path: { project, layer_id: gone.id } } }), {
    changes: layersQuery(project).queryKey,
    onDone: () => setId(''),
  })
  if (layers.length === 0) {
    return (
      <Box pb="3">
        <Box mb="3">There is no layer beside gold. Under Lists, “propose spans” makes one of what lists find; an annotated corpus can be imported into one.</Box>
        <QuietAct onClick={onClose}>close</QuietAct>
      </Box>
    )
  }
  return (
    <Box pb="3">
      <ChoiceField
        label="layer"
        value={id}
        onChange={setId}
        options={[...(chosen ? [] : [{ value: '', label: 'choose one' }]), ...layers.map((layer) => ({ value: String(layer.id), label: layer.kind === 'proposed' ? `${layer.name}, proposed` : layer.name }))]}
        help="What it has in unsigned sentences is added to gold, as far as it fits beside what stands there. Nothing is changed before you have looked the sentences through."
      />
      <Box display="flex" gap="2" justifyContent="flex-end">
        {lead && chosen?.kind === 'proposed' && (
          <BadAct loading={remove.busy} onClick={() => remove.run(chosen)}>
            delete the layer
          </BadAct>
        )}
        <QuietAct onClick={onClose}>cancel</QuietAct>
        <Act disabled={!chosen} onClick={() => chosen && onChoose(chosen)}>
          show what would change
        </Act>
      </Box>
    </Box>
  )
}

function Looked({ layer, hues, onClose }: TakeOverProps & { layer: LayerShown }) {
  const project = useProject()
  const query = useQuery({ ...layerProposalsQuery(project, layer.id), staleTime: 0, gcTime: 0 })
  return <Proposals title={`Take over “${layer.name}”`} kind="take over" query={query} hues={hues} nothing="It has nothing to add in unsigned sentences. Test texts are left out." onClose={onClose} />
}
