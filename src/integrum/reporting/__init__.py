"""What is made of a record for people and archives: the report, the codebook, a folder to hand on."""
