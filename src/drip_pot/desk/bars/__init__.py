"""The bars round the canvas. Know the easel and parts; of stages only what they are given."""
