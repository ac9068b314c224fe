"""Questions of strength: plies and laminates, metals, coupons and tested parts."""
