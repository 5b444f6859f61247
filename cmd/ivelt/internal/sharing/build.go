package sharing

import (
	"errors"
	"fmt"
	"os"
	"time"

	"github.com/spf13/cobra"

	"ivelt/cmd/ivelt/internal/given"
	"ivelt/core/desk"
	"ivelt/core/market"
	"ivelt/showcase"
)

// passwordVariable holds the password of a secret key: a command's line is seen by others.
const passwordVariable = "IVELT_KEY_PASSWORD"

func marketBuildCommand(p *given.Program) *cobra.Command {
	var b showcase.Build
	var key string
	c := &cobra.Command{
		Use:   "build DIR",
		Short: "Make a market, or its next index, from folders of parcels",
		Long: `Make a market, or its next index, from folders of parcels, to be served by any file
server. In each folder named with --from a parcel alone is an entry, and so is a folder:
with its parcels as versions, or, without any, as the piece itself. What parcels do not say
stands in the folder's entry.toml; docs/market.md shows one. Pieces are drawn and measured,
and only what changed is looked at again. With --key the index is signed.

An entry that cannot be made is told, and stays as it was if it was there; the exit status
is 1 then.`,
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			b.Dir, b.Now = args[0], time.Now()
			b.Parts = desk.With(append(desk.Builtin(), p.Surfaces...)).Parts()
			if len(b.From) == 0 {
				return errors.New("name a folder of parcels with --from")
			}
			if b.Name == "" {
				b.Name = "A market"
			}
			if key != "" {
				text, err := given.ReadFile(key)
				if err != nil {
					return err
				}
				secret, err := market.ParseSecret(text, os.Getenv(passwordVariable))
				if err != nil {
					return fmt.Errorf("%s: %w", key, err)
				}
				b.Secret = &secret
			}
			done, err := b.Run(c.Context())
			if err != nil {
				return err
			}
			for _, problem := range done.Problems {
				fmt.Fprintln(c.ErrOrStderr(), problem)
			}
			signed := "not signed"
			if b.Secret != nil {
				k, _ := b.Secret.Public()
				signed = "signed by " + k.Short()
			}
			fmt.Fprintf(c.OutOrStdout(), "%s: entries %d, new or other %d, gone %d, parcels looked into %d; index %d, %s\n",
				b.Name, done.Entries(), done.Put, done.Gone, done.Looked, done.Serial, signed)
			if len(done.Problems) > 0 {
				return given.ErrFindings
			}
			return nil
		},
	}
	c.Flags().StringArrayVar(&b.From, "from", nil, "a folder of parcels; may be repeated")
	c.Flags().StringVar(&b.Name, "name", "", "what the market is called")
	c.Flags().StringVar(&b.About, "about", "", "what is said of it, in a line")
	c.Flags().StringVar(&key, "key", "", "the secret key that signs the index; its password, if it has one, is in "+passwordVariable)
	return c
}

func marketKeyCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "key FILE",
		Short: "Make the pair of keys that a market is signed and known by",
		Long: `Make the pair of keys that a market is signed and known by, in minisign's form: FILE is
the secret one, encrypted if ` + passwordVariable + ` holds a password, and FILE.pub the other,
which "ivelt market build" puts beside the index. Who reads the market pins it the first
time. Keep the secret key: another is refused by everybody until they take it.`,
		Args: cobra.ExactArgs(1),
		RunE: func(c *cobra.Command, args []string) error {
			secret, err := market.NewSecret()
			if err != nil {
				return err
			}
			text, err := secret.File(os.Getenv(passwordVariable))
			if err != nil {
				return err
			}
			key, public := secret.Public()
			if err := writeNew(args[0], text, 0o600); err != nil {
				return err
			}
			if err := writeNew(args[0]+".pub", public, 0o644); err != nil {
				return errors.Join(err, os.Remove(args[0]))
			}
			fmt.Fprintf(c.OutOrStdout(), "%s is the secret key, %s.pub the one that others know it by: %s\n", args[0], args[0], key.Short())
			return nil
		},
	}
}

// writeNew writes a file that is not there yet.
func writeNew(at string, b []byte, mode os.FileMode) error {
	f, err := os.OpenFile(at, os.O_WRONLY|os.O_CREATE|os.O_EXCL, mode)
	if err != nil {
		return err
	}
	_, err = f.Write(b)
	return errors.Join(err, f.Close())
}
