"""From what is seen in pictures to the channels of a face: the performer card, frame by frame, the whole sequence."""
