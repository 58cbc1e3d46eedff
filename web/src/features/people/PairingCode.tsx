import { styled } from '@mui/material/styles'
import { QRCodeSVG } from 'qrcode.react'

import { Soft } from '@/ui/kit'

const Sign = styled('div')({ display: 'flex', gap: 16, flexWrap: 'wrap', alignItems: 'center' })
const Field = styled('div')({
  background: '#fff',
  padding: 12,
  lineHeight: 0,
  border: '1px solid var(--hm-rule)',
})

/** A code for a phone's camera: the address with the pairing code filled in. */
export function PairingCode({ address, pin }: { address: string; pin: string | null }) {
  const isEncrypted = address.startsWith('https:')
  return (
    <Sign>
      <Field>
        <QRCodeSVG value={address} size={176} title={`Code to scan: ${address}`} />
      </Field>
      <Soft as="div" sx={{ flex: '1 1 240px', overflowWrap: 'anywhere' }}>
        Or scan this with its camera, and press <b>Sign in</b>: {address}
        {isEncrypted ? (
          <p>
            The browser warns of the certificate, unless the device trusts it; until it does, its Timing page
            cannot be loaded anew without the network.
            {pin && (
              <>
                {' '}
                Its sha256 begins with <b>{pin.slice(0, 16)}</b>.
              </>
            )}
          </p>
        ) : (
          <p>
            Over plain HTTP its Timing page cannot be loaded anew without the network, and cannot keep the
            screen awake; <code>./haremile serve --listen ADDRESS</code> without <code>--plain</code> can do
            both.
          </p>
        )}
      </Soft>
    </Sign>
  )
}
