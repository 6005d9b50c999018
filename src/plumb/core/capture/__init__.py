"""Readings taken as they happen: what a stream of figures is watched for, sample by sample."""
