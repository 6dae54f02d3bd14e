"""What is seen in pictures of a face: the general head, the camera, landmarks, dense motion."""
