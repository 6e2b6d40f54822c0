package main

import "github.com/urfave/cli/v3"

func (s *streams) serveCommand() *cli.Command  { return &cli.Command{Name: "serve"} }
func (s *streams) demoCommand() *cli.Command   { return &cli.Command{Name: "demo"} }
func (s *streams) backupCommand() *cli.Command { return &cli.Command{Name: "backup"} }
