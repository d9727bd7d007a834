package register

import (
	"context"

	"itemrack/core/fault"
	"itemrack/device"
	"itemrack/shop/deed"
	"itemrack/store"
	"itemrack/store/devices"
)

// sendMail sends a mail through the mailbox.
func sendMail(ctx context.Context, s *deed.Shop, to, subject string, source []byte) error {
	state, err := devices.Of(s.Store).DeviceState(ctx, device.Mailbox)
	if err != nil {
		return err
	}
	if state == device.NoAnswer {
		return fault.Refuse("mailbox", state, "to try again later", "The mailbox does not answer. Nothing was sent.")
	}
	return s.Store.Do(ctx, func(tx store.Tx) error {
		return devices.KeepMail(tx, devices.Mail{At: s.Now(), Recipient: to, Subject: subject, Raw: source})
	})
}
