;; Inner loops in single precision with vectors of four. Addresses and strides are in bytes.
(module
  (import "host" "memory" (memory 1))

  ;; A filter of finite length whose answer is kept at every `stride`: out[n] = Σ in[n · stride + k] · taps[k].
  (func (export "filter")
    (param $in i32)
    (param $stride i32)
    (param $taps i32)
    (param $tapBytes i32)  ;; a multiple of 32
    (param $out i32)
    (param $count i32)
    (local $k i32) (local $a v128) (local $b v128) (local $x i32) (local $t i32)
    (block $done
      (loop $nextOutput
        (br_if $done (i32.eqz (local.get $count)))
        (local.set $a (f32x4.splat (f32.const 0)))
        (local.set $b (local.get $a))
        (local.set $k (i32.const 0))
        (loop $nextTaps
          (local.set $x (i32.add (local.get $in) (local.get $k)))
          (local.set $t (i32.add (local.get $taps) (local.get $k)))
          (local.set $a
            (f32x4.add (local.get $a) (f32x4.mul (v128.load (local.get $x)) (v128.load (local.get $t)))))
          (local.set $b
            (f32x4.add (local.get $b)
              (f32x4.mul (v128.load offset=16 (local.get $x)) (v128.load offset=16 (local.get $t)))))
          (local.set $k (i32.add (local.get $k) (i32.const 32)))
          (br_if $nextTaps (i32.lt_u (local.get $k) (local.get $tapBytes))))
        (local.set $a (f32x4.add (local.get $a) (local.get $b)))
        (f32.store (local.get $out)
          (f32.add
            (f32.add (f32x4.extract_lane 0 (local.get $a)) (f32x4.extract_lane 1 (local.get $a)))
            (f32.add (f32x4.extract_lane 2 (local.get $a)) (f32x4.extract_lane 3 (local.get $a)))))
        (local.set $in (i32.add (local.get $in) (local.get $stride)))
        (local.set $out (i32.add (local.get $out) (i32.const 4)))
        (local.set $count (i32.sub (local.get $count) (i32.const 1)))
        (br $nextOutput))))

  ;; One layer of a convolutional network over frames, four frames and eight units at a time.
  ;;
  ;; Frames are rows of `channels` float32; each is answered by a row of `units` float32, a multiple of 8.
  ;; Weights stand in blocks of eight units: for each, tap by tap, channel by channel, eight float32.
  (func (export "layer")
    (param $in i32)        ;; address of what the first tap of the first frame reads
    (param $channels i32)
    (param $taps i32)
    (param $dilation i32)  ;; frames between taps
    (param $weights i32)
    (param $biases i32)
    (param $units i32)
    (param $out i32)
    (param $frames i32)    ;; a multiple of 4
    (param $least f32)     ;; what is lower becomes this
    (param $added i32)     ;; address of rows of `units` that are added to the answer; 0 for none
    (local $row i32) (local $row2 i32) (local $row3 i32) (local $outRow i32)
    (local $unit i32) (local $w i32) (local $tap i32) (local $start i32) (local $x i32) (local $end i32)
    (local $w0 v128) (local $w1 v128) (local $v v128) (local $floor v128) (local $to i32) (local $from i32)
    (local $a0 v128) (local $a1 v128) (local $b0 v128) (local $b1 v128)
    (local $c0 v128) (local $c1 v128) (local $d0 v128) (local $d1 v128)
    (local.set $row (i32.shl (local.get $channels) (i32.const 2)))
    (local.set $row2 (i32.shl (local.get $row) (i32.const 1)))
    (local.set $row3 (i32.add (local.get $row2) (local.get $row)))
    (local.set $outRow (i32.shl (local.get $units) (i32.const 2)))
    (local.set $floor (f32x4.splat (local.get $least)))
    (block $done
      (loop $nextFrames
        (br_if $done (i32.le_s (local.get $frames) (i32.const 0)))
        (local.set $unit (i32.const 0))
        (local.set $w (local.get $weights))
        (loop $nextUnits
          (local.set $a0 (v128.load (i32.add (local.get $biases) (local.get $unit))))
          (local.set $a1 (v128.load offset=16 (i32.add (local.get $biases) (local.get $unit))))
          (local.set $b0 (local.get $a0)) (local.set $b1 (local.get $a1))
          (local.set $c0 (local.get $a0)) (local.set $c1 (local.get $a1))
          (local.set $d0 (local.get $a0)) (local.set $d1 (local.get $a1))
          (local.set $tap (local.get $taps))
          (local.set $start (local.get $in))
          (loop $nextTap
            (local.set $x (local.get $start))
            (local.set $end (i32.add (local.get $x) (local.get $row)))
            (loop $nextChannel
              (local.set $w0 (v128.load (local.get $w)))
              (local.set $w1 (v128.load offset=16 (local.get $w)))
              (local.set $v (v128.load32_splat (local.get $x)))
              (local.set $a0 (f32x4.add (local.get $a0) (f32x4.mul (local.get $v) (local.get $w0))))
              (local.set $a1 (f32x4.add (local.get $a1) (f32x4.mul (local.get $v) (local.get $w1))))
              (local.set $v (v128.load32_splat (i32.add (local.get $x) (local.get $row))))
              (local.set $b0 (f32x4.add (local.get $b0) (f32x4.mul (local.get $v) (local.get $w0))))
              (local.set $b1 (f32x4.add (local.get $b1) (f32x4.mul (local.get $v) (local.get $w1))))
              (local.set $v (v128.load32_splat (i32.add (local.get $x) (local.get $row2))))
              (local.set $c0 (f32x4.add (local.get $c0) (f32x4.mul (local.get $v) (local.get $w0))))
              (local.set $c1 (f32x4.add (local.get $c1) (f32x4.mul (local.get $v) (local.get $w1))))
              (local.set $v (v128.load32_splat (i32.add (local.get $x) (local.get $row3))))
              (local.set $d0 (f32x4.add (local.get $d0) (f32x4.mul (local.get $v) (local.get $w0))))
              (local.set $d1 (f32x4.add (local.get $d1) (f32x4.mul (local.get $v) (local.get $w1))))
              (local.set $w (i32.add (local.get $w) (i32.const 32)))
              (local.set $x (i32.add (local.get $x) (i32.const 4)))
              (br_if $nextChannel (i32.lt_u (local.get $x) (local.get $end))))
            (local.set $start
              (i32.add (local.get $start) (i32.mul (local.get $dilation) (local.get $row))))
            (local.set $tap (i32.sub (local.get $tap) (i32.const 1)))
            (br_if $nextTap (local.get $tap)))
          (local.set $a0 (f32x4.max (local.get $a0) (local.get $floor)))
          (local.set $a1 (f32x4.max (local.get $a1) (local.get $floor)))
          (local.set $b0 (f32x4.max (local.get $b0) (local.get $floor)))
          (local.set $b1 (f32x4.max (local.get $b1) (local.get $floor)))
          (local.set $c0 (f32x4.max (local.get $c0) (local.get $floor)))
          (local.set $c1 (f32x4.max (local.get $c1) (local.get $floor)))
          (local.set $d0 (f32x4.max (local.get $d0) (local.get $floor)))
          (local.set $d1 (f32x4.max (local.get $d1) (local.get $floor)))
          (if (local.get $added)
            (then
              (local.set $from (i32.add (local.get $added) (local.get $unit)))
              (local.set $a0 (f32x4.add (local.get $a0) (v128.load (local.get $from))))
              (local.set $a1 (f32x4.add (local.get $a1) (v128.load offset=16 (local.get $from))))
              (local.set $from (i32.add (local.get $from) (local.get $outRow)))
              (local.set $b0 (f32x4.add (local.get $b0) (v128.load (local.get $from))))
              (local.set $b1 (f32x4.add (local.get $b1) (v128.load offset=16 (local.get $from))))
              (local.set $from (i32.add (local.get $from) (local.get $outRow)))
              (local.set $c0 (f32x4.add (local.get $c0) (v128.load (local.get $from))))
              (local.set $c1 (f32x4.add (local.get $c1) (v128.load offset=16 (local.get $from))))
              (local.set $from (i32.add (local.get $from) (local.get $outRow)))
              (local.set $d0 (f32x4.add (local.get $d0) (v128.load (local.get $from))))
              (local.set $d1 (f32x4.add (local.get $d1) (v128.load offset=16 (local.get $from))))))
          (local.set $to (i32.add (local.get $out) (local.get $unit)))
          (v128.store (local.get $to) (local.get $a0))
          (v128.store offset=16 (local.get $to) (local.get $a1))
          (local.set $to (i32.add (local.get $to) (local.get $outRow)))
          (v128.store (local.get $to) (local.get $b0))
          (v128.store offset=16 (local.get $to) (local.get $b1))
          (local.set $to (i32.add (local.get $to) (local.get $outRow)))
          (v128.store (local.get $to) (local.get $c0))
          (v128.store offset=16 (local.get $to) (local.get $c1))
          (local.set $to (i32.add (local.get $to) (local.get $outRow)))
          (v128.store (local.get $to) (local.get $d0))
          (v128.store offset=16 (local.get $to) (local.get $d1))
          (local.set $unit (i32.add (local.get $unit) (i32.const 32)))
          (br_if $nextUnits (i32.lt_u (local.get $unit) (local.get $outRow))))
        (local.set $in (i32.add (local.get $in) (i32.shl (local.get $row) (i32.const 2))))
        (local.set $out (i32.add (local.get $out) (i32.shl (local.get $outRow) (i32.const 2))))
        (if (local.get $added)
          (then
            (local.set $added
              (i32.add (local.get $added) (i32.shl (local.get $outRow) (i32.const 2))))))
        (local.set $frames (i32.sub (local.get $frames) (i32.const 4)))
        (br $nextFrames))))

  ;; Medians of nine (Devillard 1998, "Fast median search"): out[n] of in[n], in[n + stride] … in[n + 8 · stride].
  (func (export "median")
    (param $in i32)
    (param $stride i32)
    (param $out i32)
    (param $bytes i32)  ;; of the results, a multiple of 16
    (local $i i32) (local $at i32) (local $x v128) (local $y v128) (local $z v128)
    (local $low1 v128) (local $middle1 v128) (local $high1 v128)
    (local $low2 v128) (local $middle2 v128) (local $high2 v128)
    (local $low3 v128) (local $middle3 v128) (local $high3 v128)
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $i) (local.get $bytes)))
        ;; Each three in order; in the end the middle one of the highest low, the middle of the middles and
        ;; the lowest high.
        (local.set $at (i32.add (local.get $in) (local.get $i)))
        (local.set $x (v128.load (local.get $at)))
        (local.set $at (i32.add (local.get $at) (local.get $stride)))
        (local.set $y (v128.load (local.get $at)))
        (local.set $at (i32.add (local.get $at) (local.get $stride)))
        (local.set $z (v128.load (local.get $at)))
        (local.set $at (i32.add (local.get $at) (local.get $stride)))
        (local.set $low1 (f32x4.pmin (local.get $x) (f32x4.pmin (local.get $y) (local.get $z))))
        (local.set $high1 (f32x4.pmax (local.get $x) (f32x4.pmax (local.get $y) (local.get $z))))
        (local.set $middle1 (f32x4.pmax (f32x4.pmin (local.get $x) (local.get $y)) (f32x4.pmin (f32x4.pmax (local.get $x) (local.get $y)) (local.get $z))))
        (local.set $x (v128.load (local.get $at)))
        (local.set $at (i32.add (local.get $at) (local.get $stride)))
        (local.set $y (v128.load (local.get $at)))
        (local.set $at (i32.add (local.get $at) (local.get $stride)))
        (local.set $z (v128.load (local.get $at)))
        (local.set $at (i32.add (local.get $at) (local.get $stride)))
        (local.set $low2 (f32x4.pmin (local.get $x) (f32x4.pmin (local.get $y) (local.get $z))))
        (local.set $high2 (f32x4.pmax (local.get $x) (f32x4.pmax (local.get $y) (local.get $z))))
        (local.set $middle2 (f32x4.pmax (f32x4.pmin (local.get $x) (local.get $y)) (f32x4.pmin (f32x4.pmax (local.get $x) (local.get $y)) (local.get $z))))
        (local.set $x (v128.load (local.get $at)))
        (local.set $at (i32.add (local.get $at) (local.get $stride)))
        (local.set $y (v128.load (local.get $at)))
        (local.set $at (i32.add (local.get $at) (local.get $stride)))
        (local.set $z (v128.load (local.get $at)))
        (local.set $at (i32.add (local.get $at) (local.get $stride)))
        (local.set $low3 (f32x4.pmin (local.get $x) (f32x4.pmin (local.get $y) (local.get $z))))
        (local.set $high3 (f32x4.pmax (local.get $x) (f32x4.pmax (local.get $y) (local.get $z))))
        (local.set $middle3 (f32x4.pmax (f32x4.pmin (local.get $x) (local.get $y)) (f32x4.pmin (f32x4.pmax (local.get $x) (local.get $y)) (local.get $z))))
        (local.set $x (f32x4.pmax (local.get $low1) (f32x4.pmax (local.get $low2) (local.get $low3))))
        (local.set $z (f32x4.pmin (local.get $high1) (f32x4.pmin (local.get $high2) (local.get $high3))))
        (local.set $y (f32x4.pmax (f32x4.pmin (local.get $middle1) (local.get $middle2)) (f32x4.pmin (f32x4.pmax (local.get $middle1) (local.get $middle2)) (local.get $middle3))))
        (v128.store (i32.add (local.get $out) (local.get $i))
          (f32x4.pmax (f32x4.pmin (local.get $x) (local.get $y)) (f32x4.pmin (f32x4.pmax (local.get $x) (local.get $y)) (local.get $z))))
        (local.set $i (i32.add (local.get $i) (i32.const 16)))
        (br $next))))

  ;; out[n] = a[n] · b[n]. Here and below bytes are a multiple of 16.
  (func (export "multiply")
    (param $a i32) (param $b i32) (param $out i32) (param $bytes i32)
    (local $i i32)
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $i) (local.get $bytes)))
        (v128.store (i32.add (local.get $out) (local.get $i))
          (f32x4.mul
            (v128.load (i32.add (local.get $a) (local.get $i)))
            (v128.load (i32.add (local.get $b) (local.get $i)))))
        (local.set $i (i32.add (local.get $i) (i32.const 16)))
        (br $next))))

  ;; out[n] += a[n] · b[n].
  (func (export "addProduct")
    (param $a i32) (param $b i32) (param $out i32) (param $bytes i32)
    (local $i i32) (local $to i32)
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $i) (local.get $bytes)))
        (local.set $to (i32.add (local.get $out) (local.get $i)))
        (v128.store (local.get $to)
          (f32x4.add
            (v128.load (local.get $to))
            (f32x4.mul
              (v128.load (i32.add (local.get $a) (local.get $i)))
              (v128.load (i32.add (local.get $b) (local.get $i))))))
        (local.set $i (i32.add (local.get $i) (i32.const 16)))
        (br $next))))

  ;; out[n] += factor · a[n].
  (func (export "addScaled")
    (param $a i32) (param $factor f32) (param $out i32) (param $bytes i32)
    (local $i i32) (local $to i32) (local $f v128)
    (local.set $f (f32x4.splat (local.get $factor)))
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $i) (local.get $bytes)))
        (local.set $to (i32.add (local.get $out) (local.get $i)))
        (v128.store (local.get $to)
          (f32x4.add
            (v128.load (local.get $to))
            (f32x4.mul (local.get $f) (v128.load (i32.add (local.get $a) (local.get $i))))))
        (local.set $i (i32.add (local.get $i) (i32.const 16)))
        (br $next))))

  ;; Bands of a spectrum of complex values, each by a factor of its own. Bins outside all bands are left alone.
  (func (export "scaleBands")
    (param $spectrum i32)
    (param $edges i32)    ;; int32: first bin of each band, and where the last one ends
    (param $factors i32)  ;; float32, one a band
    (param $bands i32)
    (param $out i32)
    (local $at i32) (local $end i32) (local $factor v128)
    (block $done
      (loop $nextBand
        (br_if $done (i32.eqz (local.get $bands)))
        (local.set $factor (v128.load32_splat (local.get $factors)))
        (local.set $at (i32.shl (i32.load (local.get $edges)) (i32.const 3)))
        (local.set $end (i32.shl (i32.load offset=4 (local.get $edges)) (i32.const 3)))
        (loop $nextBin
          (v128.store64_lane 0 (i32.add (local.get $out) (local.get $at))
            (f32x4.mul
              (local.get $factor)
              (v128.load64_zero (i32.add (local.get $spectrum) (local.get $at)))))
          (local.set $at (i32.add (local.get $at) (i32.const 8)))
          (br_if $nextBin (i32.lt_u (local.get $at) (local.get $end))))
        (local.set $edges (i32.add (local.get $edges) (i32.const 4)))
        (local.set $factors (i32.add (local.get $factors) (i32.const 4)))
        (local.set $bands (i32.sub (local.get $bands) (i32.const 1)))
        (br $nextBand))))

  ;; Root of the power in each band of a spectrum of complex values.
  (func (export "bandMagnitudes")
    (param $spectrum i32)
    (param $edges i32)  ;; as above
    (param $bands i32)
    (param $out i32)
    (local $at i32) (local $end i32) (local $x v128) (local $sum v128)
    (block $done
      (loop $nextBand
        (br_if $done (i32.eqz (local.get $bands)))
        (local.set $sum (f32x4.splat (f32.const 0)))
        (local.set $at (i32.add (local.get $spectrum) (i32.shl (i32.load (local.get $edges)) (i32.const 3))))
        (local.set $end
          (i32.add (local.get $spectrum) (i32.shl (i32.load offset=4 (local.get $edges)) (i32.const 3))))
        (block $counted
          (loop $nextBin
            (br_if $counted (i32.ge_u (local.get $at) (local.get $end)))
            (local.set $x (v128.load64_zero (local.get $at)))
            (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (local.get $x) (local.get $x))))
            (local.set $at (i32.add (local.get $at) (i32.const 8)))
            (br $nextBin)))
        (f32.store (local.get $out)
          (f32.sqrt
            (f32.add (f32x4.extract_lane 0 (local.get $sum)) (f32x4.extract_lane 1 (local.get $sum)))))
        (local.set $edges (i32.add (local.get $edges) (i32.const 4)))
        (local.set $out (i32.add (local.get $out) (i32.const 4)))
        (local.set $bands (i32.sub (local.get $bands) (i32.const 1)))
        (br $nextBand))))

  ;; From the spectra of left and right, bin by bin: power of mid, power of side, and what both have in common.
  (func (export "midSidePowers")
    (param $left i32) (param $right i32)
    (param $mid i32) (param $side i32) (param $cross i32)
    (param $bins i32)  ;; a multiple of 4
    (local $l0 v128) (local $l1 v128) (local $r0 v128) (local $r1 v128)
    (local $m0 v128) (local $m1 v128) (local $half v128)
    (local.set $half (f32x4.splat (f32.const 0.5)))
    (block $done
      (loop $next
        (br_if $done (i32.eqz (local.get $bins)))
        (local.set $l0 (f32x4.mul (local.get $half) (v128.load (local.get $left))))
        (local.set $l1 (f32x4.mul (local.get $half) (v128.load offset=16 (local.get $left))))
        (local.set $r0 (f32x4.mul (local.get $half) (v128.load (local.get $right))))
        (local.set $r1 (f32x4.mul (local.get $half) (v128.load offset=16 (local.get $right))))
        (local.set $m0 (f32x4.add (local.get $l0) (local.get $r0)))
        (local.set $m1 (f32x4.add (local.get $l1) (local.get $r1)))
        (local.set $l0 (f32x4.sub (local.get $l0) (local.get $r0)))
        (local.set $l1 (f32x4.sub (local.get $l1) (local.get $r1)))
        (local.set $r0 (f32x4.mul (local.get $m0) (local.get $l0)))
        (local.set $r1 (f32x4.mul (local.get $m1) (local.get $l1)))
        (local.set $m0 (f32x4.mul (local.get $m0) (local.get $m0)))
        (local.set $m1 (f32x4.mul (local.get $m1) (local.get $m1)))
        (local.set $l0 (f32x4.mul (local.get $l0) (local.get $l0)))
        (local.set $l1 (f32x4.mul (local.get $l1) (local.get $l1)))
        (v128.store (local.get $mid)
          (f32x4.add
            (i8x16.shuffle 0 1 2 3 8 9 10 11 16 17 18 19 24 25 26 27 (local.get $m0) (local.get $m1))
            (i8x16.shuffle 4 5 6 7 12 13 14 15 20 21 22 23 28 29 30 31 (local.get $m0) (local.get $m1))))
        (v128.store (local.get $side)
          (f32x4.add
            (i8x16.shuffle 0 1 2 3 8 9 10 11 16 17 18 19 24 25 26 27 (local.get $l0) (local.get $l1))
            (i8x16.shuffle 4 5 6 7 12 13 14 15 20 21 22 23 28 29 30 31 (local.get $l0) (local.get $l1))))
        (v128.store (local.get $cross)
          (f32x4.add
            (i8x16.shuffle 0 1 2 3 8 9 10 11 16 17 18 19 24 25 26 27 (local.get $r0) (local.get $r1))
            (i8x16.shuffle 4 5 6 7 12 13 14 15 20 21 22 23 28 29 30 31 (local.get $r0) (local.get $r1))))
        (local.set $left (i32.add (local.get $left) (i32.const 32)))
        (local.set $right (i32.add (local.get $right) (i32.const 32)))
        (local.set $mid (i32.add (local.get $mid) (i32.const 16)))
        (local.set $side (i32.add (local.get $side) (i32.const 16)))
        (local.set $cross (i32.add (local.get $cross) (i32.const 16)))
        (local.set $bins (i32.sub (local.get $bins) (i32.const 4)))
        (br $next))))

  ;; Weighted sums over spans of values: out[r] = Σ values[first + k] · weights[k].
  (func (export "spanSums")
    (param $values i32)
    (param $spans i32)  ;; int32, three a span: bytes from `values` to its first, address of its weights, its bytes
    (param $count i32)
    (param $out i32)
    (local $at i32) (local $weights i32) (local $end i32) (local $sum v128)
    (block $done
      (loop $nextSpan
        (br_if $done (i32.eqz (local.get $count)))
        (local.set $at (i32.add (local.get $values) (i32.load (local.get $spans))))
        (local.set $weights (i32.load offset=4 (local.get $spans)))
        (local.set $end (i32.add (local.get $at) (i32.load offset=8 (local.get $spans))))
        (local.set $sum (f32x4.splat (f32.const 0)))
        (block $summed
          (loop $next
            (br_if $summed (i32.ge_u (local.get $at) (local.get $end)))
            (local.set $sum
              (f32x4.add (local.get $sum)
                (f32x4.mul (v128.load (local.get $at)) (v128.load (local.get $weights)))))
            (local.set $at (i32.add (local.get $at) (i32.const 16)))
            (local.set $weights (i32.add (local.get $weights) (i32.const 16)))
            (br $next)))
        (f32.store (local.get $out)
          (f32.add
            (f32.add (f32x4.extract_lane 0 (local.get $sum)) (f32x4.extract_lane 1 (local.get $sum)))
            (f32.add (f32x4.extract_lane 2 (local.get $sum)) (f32x4.extract_lane 3 (local.get $sum)))))
        (local.set $spans (i32.add (local.get $spans) (i32.const 12)))
        (local.set $out (i32.add (local.get $out) (i32.const 4)))
        (local.set $count (i32.sub (local.get $count) (i32.const 1)))
        (br $nextSpan))))

  ;; Largest magnitude at ¼, ½ and ¾ between a sample and the next, by sums and differences of the
  ;; samples that mirror one another about the middle.
  (func (export "between")
    (param $in i32)       ;; address of the first sample that the first place reads
    (param $weights i32)  ;; float32, three a pair from the outermost inwards: ½ of sums, ¼ of sums, ¼ of differences
    (param $pairs i32)
    (param $out i32)
    (param $count i32)    ;; a multiple of 4
    (local $a v128) (local $b v128) (local $first i32) (local $last i32) (local $w i32)
    (local $half v128) (local $even v128) (local $odd v128)
    (block $done
      (loop $next
        (br_if $done (i32.le_s (local.get $count) (i32.const 0)))
        (local.set $half (f32x4.splat (f32.const 0)))
        (local.set $even (local.get $half))
        (local.set $odd (local.get $half))
        (local.set $first (local.get $in))
        (local.set $last
          (i32.add (local.get $in) (i32.sub (i32.shl (local.get $pairs) (i32.const 3)) (i32.const 4))))
        (local.set $w (local.get $weights))
        (loop $nextPair
          (local.set $a (v128.load (local.get $first)))
          (local.set $b (f32x4.sub (local.get $a) (v128.load (local.get $last))))
          (local.set $a (f32x4.add (local.get $a) (v128.load (local.get $last))))
          (local.set $half
            (f32x4.add (local.get $half) (f32x4.mul (v128.load32_splat (local.get $w)) (local.get $a))))
          (local.set $even
            (f32x4.add (local.get $even)
              (f32x4.mul (v128.load32_splat offset=4 (local.get $w)) (local.get $a))))
          (local.set $odd
            (f32x4.add (local.get $odd)
              (f32x4.mul (v128.load32_splat offset=8 (local.get $w)) (local.get $b))))
          (local.set $w (i32.add (local.get $w) (i32.const 12)))
          (local.set $first (i32.add (local.get $first) (i32.const 4)))
          (local.set $last (i32.sub (local.get $last) (i32.const 4)))
          (br_if $nextPair (i32.lt_u (local.get $first) (local.get $last))))
        ;; The larger of |even + odd| and |even − odd|.
        (v128.store (local.get $out)
          (f32x4.pmax
            (f32x4.abs (local.get $half))
            (f32x4.add (f32x4.abs (local.get $even)) (f32x4.abs (local.get $odd)))))
        (local.set $in (i32.add (local.get $in) (i32.const 16)))
        (local.set $out (i32.add (local.get $out) (i32.const 16)))
        (local.set $count (i32.sub (local.get $count) (i32.const 4)))
        (br $next)))))
