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
        (br $nextFrames)))))
