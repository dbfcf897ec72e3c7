import "sleeve";
