package sheet

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/xuri/excelize/v2"

	"vineladder/internal/core/site"
)

// unpackedLimit bounds a workbook, unpacked, in bytes.
const unpackedLimit = 1 << 30

// ofWorkbook gives the first sheet of a workbook (Office Open XML, ISO/IEC 29500) as CSV. Cells are taken as they are
// shown.
func ofWorkbook(r io.Reader) (io.Reader, error) {
	wrong := func(sentence string) error { return &Error{Line: 1, Column: 1, Sentence: sentence} }
	book, err := excelize.OpenReader(r, excelize.Options{UnzipSizeLimit: unpackedLimit})
	if err != nil {
		return nil, wrong("the file is no workbook that can be read, and no CSV")
	}
	defer book.Close()
	sheets := book.GetSheetList()
	if len(sheets) == 0 {
		return nil, wrong("the workbook has no sheet")
	}
	rows, err := book.GetRows(sheets[0])
	if err != nil || len(rows) == 0 {
		return nil, wrong("the first sheet of the workbook is empty; its first line names the columns")
	}
	var plain bytes.Buffer
	out := csv.NewWriter(&plain)
	for i, row := range rows {
		for len(row) < len(rows[0]) { // what is empty at the end of a line is not kept
			row = append(row, "")
		}
		if err := out.Write(row); err != nil {
			return nil, fmt.Errorf("read line %d of the workbook: %w", i+1, err)
		}
	}
	out.Flush()
	return &plain, nil
}

// WriteWorkbook writes the structure sheet as a workbook. All cells are words, so that no program takes an address for
// a date.
func WriteWorkbook(w io.Writer, s *site.Site, now time.Time) error {
	var plain bytes.Buffer
	if err := Write(&plain, s, now); err != nil {
		return err
	}
	book := excelize.NewFile()
	defer book.Close()
	const name = "Pages"
	if err := book.SetSheetName(book.GetSheetName(0), name); err != nil {
		return fmt.Errorf("write a workbook: %w", err)
	}
	out, err := book.NewStreamWriter(name)
	if err != nil {
		return fmt.Errorf("write a workbook: %w", err)
	}
	in := csv.NewReader(&plain)
	for line := 1; ; line++ {
		record, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return fmt.Errorf("write a workbook: %w", err)
		}
		cells := make([]any, len(record))
		for i, cell := range record {
			cells[i] = cell
		}
		if err := out.SetRow(fmt.Sprintf("A%d", line), cells); err != nil {
			return fmt.Errorf("write a workbook: %w", err)
		}
	}
	if err := out.Flush(); err != nil {
		return fmt.Errorf("write a workbook: %w", err)
	}
	return book.Write(w)
}
