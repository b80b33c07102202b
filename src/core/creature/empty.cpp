namespace bonemoss {}
