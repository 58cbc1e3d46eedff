import Alert from '@mui/material/Alert'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { useState, type FormEvent } from 'react'

import { useMakeLadder } from '@/api/guests'
import { Actions, Soft, SoftSmall } from '@/ui/kit'
import { Select } from '@/ui/Select'

const BUSES = ['virtio', 'sata', 'ide', 'nvme', 'scsi']

const sizesIn = (text: string) =>
  text
    .split(/[\s,]+/)
    .map(Number)
    .filter((size) => Number.isInteger(size) && size > 0)

/** Makes virtual machines on this computer: one, or several that differ in their memory alone. */
export function LadderDialog({
  onClose,
  onDone,
}: {
  onClose: () => void
  onDone: (ids: readonly string[]) => void
}) {
  const make = useMakeLadder()
  const [memory, setMemory] = useState('512, 1024, 2048')
  const sizes = sizesIn(memory)
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault()
    const form = new FormData(event.currentTarget)
    make.mutate(
      {
        name: String(form.get('name') ?? '').trim(),
        memories: sizes,
        cores: Number(form.get('cores')) || 1,
        bus: String(form.get('bus')),
        firmware: String(form.get('firmware')),
        disk_mib: Math.round(Number(form.get('disk')) * 1024) || null,
      },
      { onSuccess: (made) => onDone(made.ids) },
    )
  }
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="sm" aria-labelledby="ladder-title">
      <form onSubmit={submit}>
        <DialogTitle id="ladder-title" variant="h2">
          Make virtual machines
        </DialogTitle>
        <DialogContent sx={{ display: 'grid', gap: 2 }}>
          <Soft as="p" sx={{ m: 0 }}>
            On this computer. Several sizes of memory make a ladder: the same system on each tells what it
            needs.
          </Soft>
          <TextField name="name" label="Name" required autoFocus defaultValue="Guest" sx={{ mt: 1 }} />
          <TextField
            label="Memory, MiB"
            required
            value={memory}
            onChange={(event) => setMemory(event.target.value)}
            helperText={
              sizes.length > 1
                ? `${sizes.length} machines, one for each size`
                : 'One size, or several parted by commas'
            }
          />
          <TextField
            name="cores"
            label="Cores"
            type="number"
            defaultValue={1}
            slotProps={{ htmlInput: { min: 1, max: 64 } }}
          />
          <TextField
            name="disk"
            label="Disk, GiB"
            type="number"
            slotProps={{ htmlInput: { min: 0.0625, max: 4096, step: 'any' } }}
            helperText="Empty: as large as the image. A live system gets an empty disk of this size"
          />
          <Actions sx={{ alignItems: 'center' }}>
            <SoftSmall id="ladder-bus">Disk attached by</SoftSmall>
            <span>
              <Select name="bus" defaultValue="virtio" inputProps={{ 'aria-labelledby': 'ladder-bus' }}>
                {BUSES.map((bus) => (
                  <option key={bus}>{bus}</option>
                ))}
              </Select>
            </span>
            <SoftSmall id="ladder-firmware">Firmware</SoftSmall>
            <span>
              <Select
                name="firmware"
                defaultValue="bios"
                inputProps={{ 'aria-labelledby': 'ladder-firmware' }}
              >
                <option value="bios">BIOS</option>
                <option value="uefi">UEFI</option>
              </Select>
            </span>
          </Actions>
          {make.error && <Alert severity="error">{make.error.message}</Alert>}
        </DialogContent>
        <DialogActions>
          <Button color="inherit" onClick={onClose}>
            Cancel
          </Button>
          <Button type="submit" variant="contained" disabled={!sizes.length || make.isPending}>
            Make {sizes.length > 1 ? 'them' : 'it'}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  )
}
