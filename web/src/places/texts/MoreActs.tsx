import { Menu, Portal } from '@chakra-ui/react'

import { QuietAct } from '../../parts/controls'

/** Acts that are not wanted every day. */
export function MoreActs({ acts }: { acts: readonly (readonly [label: string, run: () => void])[] }) {
  return (
    <Menu.Root>
      <Menu.Trigger asChild>
        <QuietAct>more</QuietAct>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content>
            {acts.map(([label, run]) => (
              <Menu.Item key={label} value={label} onClick={run}>
                {label}
              </Menu.Item>
            ))}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  )
}
