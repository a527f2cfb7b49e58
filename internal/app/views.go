package app
