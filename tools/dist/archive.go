package main

import (
	"archive/tar"
	"archive/zip"
	"compress/gzip"
	"errors"
	"os"
	"time"
)

// packed is a file of an archive.
type packed struct {
	from, name string
	mode       int64
}

// tarball writes files below a folder, all of one time, so that the same files give the same bytes.
func tarball(path, below string, files []packed, at time.Time) (err error) {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	z, err := gzip.NewWriterLevel(f, gzip.BestCompression)
	if err != nil {
		return errors.Join(err, f.Close())
	}
	w := tar.NewWriter(z)
	defer func() { err = errors.Join(err, w.Close(), z.Close(), f.Close()) }()
	for _, p := range files {
		body, err := os.ReadFile(p.from)
		if err != nil {
			return err
		}
		if err := w.WriteHeader(&tar.Header{Name: below + "/" + p.name, Mode: p.mode, Size: int64(len(body)), ModTime: at, Format: tar.FormatUSTAR}); err != nil {
			return err
		}
		if _, err := w.Write(body); err != nil {
			return err
		}
	}
	return nil
}

// zipped is tarball for systems that unpack ZIP.
func zipped(path, below string, files []packed, at time.Time) (err error) {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	w := zip.NewWriter(f)
	defer func() { err = errors.Join(err, w.Close(), f.Close()) }()
	for _, p := range files {
		body, err := os.ReadFile(p.from)
		if err != nil {
			return err
		}
		to, err := w.CreateHeader(&zip.FileHeader{Name: below + "/" + p.name, Method: zip.Deflate, Modified: at})
		if err != nil {
			return err
		}
		if _, err := to.Write(body); err != nil {
			return err
		}
	}
	return nil
}
