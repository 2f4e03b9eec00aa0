package main

import (
	"fmt"
	"os"
	"sync"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
)

func main() {
	fs := all.Formats
	for range 3 {
		t := time.Now()
		var wg sync.WaitGroup
		ch := make(chan string)
		for range 2 {
			wg.Go(func() {
				for p := range ch {
					src, err := format.Open(nil, p, nil)
					if err != nil {
						panic(err)
					}
					_, err = fs.Load(src, "", false, &format.ReadOptions{})
					src.Close()
					if err != nil {
						panic(err)
					}
				}
			})
		}
		for _, p := range os.Args[1:] {
			ch <- p
		}
		close(ch)
		wg.Wait()
		fmt.Println(time.Since(t))
	}
}
