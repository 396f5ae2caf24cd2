package paint

import (
	"crypto/sha256"
	"encoding/binary"
	"sync"

	"golang.org/x/sync/singleflight"

	"synaptor/internal/core/face"
)

// maxBook is how many bytes of encoded pictures are kept.
//
//limit:bytes pictures of faces that are kept for controllers | nowhere; they are painted again
const maxBook = 64 << 20

// Book keeps painted faces by what is on them, for all controllers together: the same face in the same size is painted once. It is
// safe for concurrent use.
type Book struct {
	pictures Pictures
	painters sync.Pool

	once  singleflight.Group // several controllers want the same at the same time
	mu    sync.Mutex
	kept  map[[sha256.Size]byte][]byte
	order [][sha256.Size]byte // the oldest first
	bytes int
}

// NewBook makes an empty one. pictures may be nil.
func NewBook(pictures Pictures) *Book {
	return &Book{pictures: pictures, kept: map[[sha256.Size]byte][]byte{}}
}

// Page says what is painted: a face, of which Key is all that is on it, as a kind of control shows it, in a size and a format.
type Page struct {
	Face          face.Face
	Key           []byte // nil: it is not kept
	Kind          string
	Width, Height int
	Format        string
	Moment        Moment
}

// Get gives a picture. It fails where there is no such format.
func (b *Book) Get(p Page) ([]byte, error) {
	var key [sha256.Size]byte
	if p.Key != nil {
		key = p.key()
		b.mu.Lock()
		body, has := b.kept[key]
		b.mu.Unlock()
		if has {
			return body, nil
		}
		made, err, _ := b.once.Do(string(key[:]), func() (any, error) {
			body, err := b.make(p)
			if err == nil {
				b.keep(key, body)
			}
			return body, err
		})
		if err != nil {
			return nil, err
		}
		return made.([]byte), nil
	}
	return b.make(p)
}

// make paints and encodes.
func (b *Book) make(p Page) ([]byte, error) {
	painter, _ := b.painters.Get().(*Painter)
	if painter == nil {
		var err error
		if painter, err = New(b.pictures); err != nil {
			return nil, err
		}
	}
	img := painter.Draw(p.Face, p.Kind, p.Width, p.Height, p.Moment)
	b.painters.Put(painter)
	return Encode(img, p.Format)
}

func (p Page) key() [sha256.Size]byte {
	h := sha256.New()
	h.Write(p.Key)
	head := binary.BigEndian.AppendUint32(nil, uint32(p.Width))
	head = binary.BigEndian.AppendUint32(head, uint32(p.Height))
	if p.Moment.Dark {
		head = append(head, 1)
	}
	if p.Moment.Pressed {
		head = append(head, 2)
	}
	h.Write(append(append(append(head, p.Kind...), 0), p.Format...))
	return [sha256.Size]byte(h.Sum(nil))
}

func (b *Book) keep(key [sha256.Size]byte, body []byte) {
	b.mu.Lock()
	defer b.mu.Unlock()
	if _, has := b.kept[key]; has {
		return
	}
	b.kept[key] = body
	b.order = append(b.order, key)
	b.bytes += len(body)
	for b.bytes > maxBook && len(b.order) > 1 {
		b.bytes -= len(b.kept[b.order[0]])
		delete(b.kept, b.order[0])
		b.order = b.order[1:]
	}
}
