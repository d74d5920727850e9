"""Exposure with a fixed aperture and two lenses: values, motion, flicker, filters, metering and the solver."""
